// Package typeset sets text on pages and writes them as PDF files (ISO 32000-1): in
// any of the scripts that the interface has fonts for, from left to right and from
// right to left.
package typeset

import (
	"bytes"
	"cmp"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"

	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/language"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/math/fixed"
	textlanguage "golang.org/x/text/language"
	"golang.org/x/text/unicode/bidi"

	"upperlantern/internal/core/rich"
)

// An A4 page (ISO 216) in points, and what stays empty at its edges.
const (
	short, long = 595.28, 841.89
	edge        = 64.0
	leading     = 1.42 // of the size of the letters
)

// slant is how far italics lean.
const slant = 0.2

// Document is a file that is being laid out.
type Document struct {
	objects   objects
	faces     faces
	shapes    shapes
	tag       string // BCP 47
	language  language.Language
	direction di.Direction  // of that language
	whole     *bytes.Buffer // the file, unless it is written elsewhere
	tree      int           // the object of all pages
	resources int           // that of their fonts and pictures
	pages     []int         // their objects
	pictures  map[string]picture
	page      strings.Builder
	wide      float64 // of a page, in points
	high      float64
	margin    float64 // at its edges
	y         float64 // of the lower edge of what stands on the page
	foot      string  // of each page
	table     *Table  // whose rows are set

	segmenter shaping.Segmenter
	// A shaper keeps what it knows of a font, whatever its weight: one for each.
	light, heavy shaping.HarfbuzzShaper
	wrapper      shaping.LineWrapper
}

// Style is how text is set. Indent is on the side where it begins. What stands
// in a block begins where the letter's language does, in whatever script it is.
type Style struct {
	Size, Indent float64
	Grey, Bold   bool
	ToEnd, Block bool
}

// New begins a document in a language (BCP 47).
func New(f *Fonts, tag string) *Document {
	whole := &bytes.Buffer{}
	d := NewTo(whole, f, tag)
	d.whole = whole
	return d
}

// NewTo begins a document that is written page by page.
func NewTo(out io.Writer, f *Fonts, tag string) *Document {
	d := &Document{
		faces: faces{fonts: f, known: map[faceKey]*font.Face{}}, shapes: shapes{places: map[glyph]place{}}, tag: tag,
		language: language.NewLanguage(tag), direction: directionOf(tag), pictures: map[string]picture{},
		wide: short, high: long, margin: edge, objects: objects{out: out},
	}
	d.tree, d.resources = d.objects.reserve(), d.objects.reserve()
	return d
}

// width is that of the text.
func (d *Document) width() float64 { return d.wide - 2*d.margin }

// Speak sets what follows in a language (BCP 47).
func (d *Document) Speak(tag string) {
	d.language, d.direction = language.NewLanguage(tag), directionOf(tag)
}

// NewPage goes on on another page.
func (d *Document) NewPage() {
	d.endPage()
	d.y = d.high - d.margin
}

// down leaves room for a height, on the next page if need be.
func (d *Document) down(height float64) {
	if d.y-height < d.margin {
		d.NewPage()
	}
	d.y -= height
}

// Space leaves a gap, which no page begins with.
func (d *Document) Space(height float64) { d.y -= height }

// GoTo goes on at a distance from the top of the page, in points.
func (d *Document) GoTo(fromTop float64) { d.y = d.high - fromTop }

// GoBelow goes on at a distance from the top of the page, or further down.
func (d *Document) GoBelow(fromTop float64) { d.y = min(d.y, d.high-fromTop) }

// Rule draws a line over the width of the text.
func (d *Document) Rule() {
	fmt.Fprintf(&d.page, "0.8 G 0.7 w %.2f %.2f m %.2f %.2f l S\n", d.margin, d.y, d.margin+d.width(), d.y)
}

// Dots are a line to write on.
func (d *Document) Dots(length float64) {
	x := d.margin
	if d.direction == di.DirectionRTL {
		x += d.width() - length
	}
	fmt.Fprintf(&d.page, "0.6 G 0.6 w [1 2] 0 d %.2f %.2f m %.2f %.2f l S [] 0 d\n", x, d.y, x+length, d.y)
}

// directionOf is the direction of a language (BCP 47).
func directionOf(tag string) di.Direction {
	script, _ := textlanguage.Make(tag).Script()
	if slices.Contains([]string{"Arab", "Hebr", "Thaa", "Syrc", "Nkoo"}, script.String()) {
		return di.DirectionRTL
	}
	return di.DirectionLTR
}

// Line sets a paragraph that is all of a style.
func (d *Document) Line(text string, s Style) {
	d.paragraph([]rich.Run{{Text: text}}, s)
}

// paragraph sets runs of text, with their breaks.
func (d *Document) paragraph(runs []rich.Run, s Style) {
	var line []rich.Run
	dir := direction(runs)
	for _, r := range runs {
		for i, part := range strings.Split(r.Text, "\n") {
			if i > 0 {
				d.lines(line, dir, s)
				line = nil
			}
			if part != "" {
				line = append(line, rich.Run{Text: part, Bold: r.Bold || s.Bold, Italic: r.Italic})
			}
		}
	}
	d.lines(line, dir, s)
}

// direction is that of the first letter that has one, as dir="auto" has it.
func direction(runs []rich.Run) di.Direction {
	for _, run := range runs {
		for _, r := range run.Text {
			switch p, _ := bidi.LookupRune(r); p.Class() {
			case bidi.L:
				return di.DirectionLTR
			case bidi.R, bidi.AL:
				return di.DirectionRTL
			}
		}
	}
	return di.DirectionLTR
}

// lines breaks and sets text that has no breaks of its own.
func (d *Document) lines(runs []rich.Run, dir di.Direction, s Style) {
	if len(runs) == 0 {
		d.down(s.Size * leading)
		return
	}
	for _, l := range d.wrap(runs, dir, s, d.width()-s.Indent) {
		d.down(s.Size * leading)
		d.set(l, s, box{d.margin + s.Indent, d.width() - 2*s.Indent})
	}
}

// line is a line of a text, and what it was made from.
type line struct {
	shaped shaping.Line
	words  []rune
	italic []bool
	dir    di.Direction
}

// wrap breaks text into lines that are no longer than a width.
func (d *Document) wrap(runs []rich.Run, dir di.Direction, s Style, width float64) []line {
	words, outputs, italic := d.shape(runs, dir, s)
	if d.faces.err != nil {
		return nil
	}
	wrapped, _ := d.wrapper.WrapParagraphF(
		shaping.WrapConfig{Direction: dir}, fixed.Int26_6(width*64), words, shaping.NewSliceIterator(outputs),
	)
	list := make([]line, len(wrapped))
	for i, l := range wrapped {
		list[i] = line{slices.Clone(l), words, italic, dir}
	}
	return list
}

// shape chooses the glyphs of runs, and tells which characters are italic.
func (d *Document) shape(
	runs []rich.Run, dir di.Direction, s Style,
) (words []rune, outputs []shaping.Output, italic []bool) {
	for _, r := range runs {
		words = append(words, []rune(r.Text)...)
	}
	italic = make([]bool, len(words))
	from := 0
	for _, r := range runs {
		to := from + len([]rune(r.Text))
		weight, shaper := float32(regular), &d.light
		if r.Bold {
			weight, shaper = bold, &d.heavy
		}
		for i := from; i < to; i++ {
			italic[i] = r.Italic
		}
		whole := shaping.Input{
			Text: words, RunStart: from, RunEnd: to, Direction: dir, Size: fixed.Int26_6(s.Size * 64), Language: d.language,
		}
		pieces := d.segmenter.Split(whole, weighted{&d.faces, weight})
		if d.faces.err != nil {
			return nil, nil, nil
		}
		for _, in := range pieces {
			outputs = append(outputs, shaper.Shape(in))
		}
		from = to
	}
	return words, outputs, italic
}

// box is where a line stands across the page.
type box struct{ x, width float64 }

// set draws one line at d.y.
func (d *Document) set(l line, s Style, in box) { d.draw(&d.page, l, s, in, d.y) }

// draw writes the operators that draw one line.
func (d *Document) draw(page *strings.Builder, l line, s Style, in box, y float64) {
	slices.SortFunc(l.shaped, func(a, b shaping.Output) int { return cmp.Compare(a.VisualIndex, b.VisualIndex) })
	total := 0.0
	for _, run := range l.shaped {
		total += points(run.Advance)
	}
	dir, x := l.dir, in.x
	if s.Block {
		dir = d.direction
	}
	if (dir == di.DirectionRTL) != s.ToEnd {
		x += in.width - total
	}
	fmt.Fprintf(page, "%s g BT\n", map[bool]string{true: "0.4", false: "0"}[s.Grey])
	baseline := y + s.Size*(leading-1)
	for _, run := range l.shaped {
		// What is copied or read aloud is the text, not the shapes of its letters.
		fmt.Fprintf(page, "/Span << /ActualText %s >> BDC\n", text(
			string(l.words[run.Runes.Offset:run.Runes.Offset+run.Runes.Count]),
		))
		x = d.glyphs(page, run, l.italic, s.Size, x, baseline)
		page.WriteString("EMC\n")
	}
	page.WriteString("ET\n")
}

// drift is how far a glyph may stand from its place, in points, before it is moved.
const drift = 0.02

// glyphs draws those of a run and returns where the next one stands. As long as each
// follows the one before, one operator draws them all (ISO 32000-1 §9.4.3, TJ).
func (d *Document) glyphs(
	page *strings.Builder, run shaping.Output, italic []bool, size, x, baseline float64,
) float64 {
	type pen struct {
		font    int
		lean, y float64
	}
	var now pen
	at, open := 0.0, false // where the reader's pen is
	for _, g := range run.Glyphs {
		shape := d.shapes.place(glyph{run.Face, g.GlyphID})
		next := pen{shape.font, 0, baseline + points(g.YOffset)}
		if italic[g.TextIndex()] {
			next.lean = slant
		}
		want := x + points(g.XOffset)
		if !open || next != now {
			if open {
				page.WriteString(">] TJ\n")
			}
			fmt.Fprintf(page, "/F%d %.1f Tf 1 0 %.1f 1 %.2f %.2f Tm [<", next.font, size, next.lean, want, next.y)
			now, at, open = next, want, true
		} else if math.Abs(want-at) > drift {
			back := math.Round((at - want) * 1000 / size)
			fmt.Fprintf(page, ">%.0f<", back)
			at -= back * size / 1000
		}
		hexByte(page, shape.code)
		at += shape.width * size / 1000
		x += points(g.Advance)
	}
	if open {
		page.WriteString(">] TJ\n")
	}
	return x
}

func points(v fixed.Int26_6) float64 { return float64(v) / 64 }

const (
	BodySize   = 11.0
	listIndent = 18.0
)

var headings = map[int]float64{2: 15, 3: 12.5}

// Body sets the blocks of a formatted text.
func (d *Document) Body(nodes []rich.Node, indent float64) {
	for _, n := range nodes {
		switch n.Type {
		case rich.Paragraph:
			d.paragraph(n.Runs(), Style{Size: BodySize, Indent: indent})
		case rich.Heading:
			d.Space(8)
			d.paragraph(n.Runs(), Style{Size: headings[n.Attrs.Level], Indent: indent, Bold: true})
		case rich.Image:
			d.picture(n)
		default:
			d.list(n, indent)
		}
	}
}

func (d *Document) list(n rich.Node, indent float64) {
	d.Space(3)
	for i, item := range n.Content {
		mark := "•"
		if n.Type == rich.OrderedList {
			mark = fmt.Sprintf("%d.", i+1)
		}
		d.bullet(mark, item, indent)
		d.Body(item.Content, indent+listIndent)
	}
	d.Space(3)
}

// bullet stands beside the first line of an item, which has to follow at once.
func (d *Document) bullet(mark string, item rich.Node, indent float64) {
	if d.y-BodySize*leading < d.margin {
		d.NewPage()
	}
	dir := di.DirectionLTR
	if len(item.Content) > 0 {
		dir = direction(item.Content[0].Runs())
	}
	y := d.y
	d.lines([]rich.Run{{Text: mark}}, dir, Style{Size: BodySize, Indent: indent + 4})
	d.y = y
}
