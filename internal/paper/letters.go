// Package paper writes letters as PDF files (ISO 32000-1): in any of the
// scripts that the interface has fonts for, from left to right and from right
// to left.
package paper

import (
	"fmt"
	"strings"

	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/language"

	"upperlantern/internal/core/rich"
)

// Letter is what one household gets.
type Letter struct {
	Names   []string
	Address string // postal, in lines; "" leaves room to write it
	Subject string
	Body    rich.Doc
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
func (f *Fonts) Write(b Batch) ([]byte, error) {
	d := &document{
		faces:    faces{fonts: f, known: map[faceKey]*font.Face{}},
		shapes:   typeset{places: map[glyph]place{}},
		language: language.NewLanguage(b.Language), direction: directionOf(b.Language), pictures: map[string]picture{},
	}
	for _, l := range b.Letters {
		for _, hash := range l.Body.Images() {
			if _, known := d.pictures[hash]; !known {
				d.pictures[hash] = d.objects.addPicture(b.Picture(hash))
			}
		}
		d.letter(b, l)
	}
	d.newPage()
	if d.faces.err != nil {
		return nil, d.faces.err
	}
	return d.finish(b), nil
}

// The address shows in the window of a DL envelope (ISO 269) when the page is
// folded in three.
const (
	windowTop    = 141.0
	windowHeight = 100.0
)

func (d *document) letter(b Batch, l Letter) {
	d.newPage()
	d.line(b.Organisation, style{size: 10, grey: true, block: true})
	d.space(4)
	d.rule()
	d.y = pageHeight - windowTop
	for _, n := range l.Names {
		d.line(n, style{size: bodySize, block: true})
	}
	if l.Address != "" {
		d.line(l.Address, style{size: bodySize, block: true})
	} else {
		d.space(42)
		d.dots(180)
	}
	d.y = min(d.y-14, pageHeight-windowTop-windowHeight)
	d.line(b.Date, style{size: bodySize, toEnd: true, block: true})
	d.space(14)
	if l.Subject != "" {
		d.line(l.Subject, style{size: 13, bold: true})
		d.space(8)
	}
	d.body(l.Body.Content, 0)
}

// finish writes fonts, pages and what leads to them.
func (d *document) finish(b Batch) []byte {
	o := &d.objects
	resources := "<< " + d.shapes.write(o) + " /XObject << "
	for _, p := range d.pictures {
		if p.object > 0 {
			resources += fmt.Sprintf("/P%d %d 0 R ", p.object, p.object)
		}
	}
	resources += ">> >>"
	tree := o.reserve()
	var pages strings.Builder
	for _, content := range d.pages {
		page := o.add(fmt.Sprintf("<< /Type /Page /Parent %d 0 R /MediaBox [0 0 %.2f %.2f] /Resources %s /Contents %d 0 R >>",
			tree, pageWidth, pageHeight, resources, o.stream("", []byte(content))))
		fmt.Fprintf(&pages, "%d 0 R ", page)
	}
	o.put(tree, fmt.Sprintf("<< /Type /Pages /Kids [%s] /Count %d >>", pages.String(), len(d.pages)))
	root := o.add(fmt.Sprintf("<< /Type /Catalog /Pages %d 0 R /Lang %s >>", tree, text(b.Language)))
	info := o.add(fmt.Sprintf("<< /Title %s /Producer %s >>", text(b.Organisation), text("Upper Lantern")))
	return o.finish(root, info)
}
