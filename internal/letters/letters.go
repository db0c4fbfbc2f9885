// Package letters lays out letters to households as PDF files.
package letters

import (
	"cmp"
	"slices"

	"upperlantern/internal/core/rich"
	"upperlantern/internal/typeset"
)

// Letter is what one household gets.
type Letter struct {
	Names   []string
	Address string // postal, in lines; "" leaves room to write it
	Subject string
	Body    rich.Doc
	// Languages are those of the words as they stand beneath one another, BCP 47; none is
	// that of the batch.
	Languages []string
	Date      string // in the first of them; "" is that of the batch
}

// Batch is letters that are printed together.
type Batch struct {
	Organisation string
	Language     string // of the letters, BCP 47
	Date         string // in that language
	Letters      []Letter
	// Picture is the content of an image by the hash of its file, or nil.
	Picture func(hash string) []byte
}

// Write lays letters out, each from a page of its own on.
func Write(f *typeset.Fonts, b Batch) ([]byte, error) {
	d := typeset.New(f, b.Language)
	for _, l := range b.Letters {
		for _, hash := range l.Body.Images() {
			if !d.HasPicture(hash) {
				d.AddPicture(hash, b.Picture(hash))
			}
		}
		write(d, b, l)
	}
	return d.Finish(b.Organisation)
}

// The address shows in the window of a DL envelope (ISO 269) when the page is
// folded in three.
const (
	windowTop    = 141.0
	windowHeight = 100.0
)

func write(d *typeset.Document, b Batch, l Letter) {
	d.Speak(append(slices.Clone(l.Languages), b.Language)[0])
	d.NewPage()
	d.Line(b.Organisation, typeset.Style{Size: 10, Grey: true, Block: true})
	d.Space(4)
	d.Rule()
	d.GoTo(windowTop)
	for _, n := range l.Names {
		d.Line(n, typeset.Style{Size: typeset.BodySize, Block: true})
	}
	if l.Address != "" {
		d.Line(l.Address, typeset.Style{Size: typeset.BodySize, Block: true})
	} else {
		d.Space(42)
		d.Dots(180)
	}
	d.Space(14)
	d.GoBelow(windowTop + windowHeight)
	d.Line(cmp.Or(l.Date, b.Date), typeset.Style{Size: typeset.BodySize, ToEnd: true, Block: true})
	d.Space(14)
	if l.Subject != "" {
		d.Line(l.Subject, typeset.Style{Size: 13, Bold: true})
		d.Space(8)
	}
	d.Body(l.Body.Content, 0)
}
