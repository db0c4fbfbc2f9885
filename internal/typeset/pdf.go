package typeset

import (
	"bytes"
	"compress/zlib"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"
	"unicode/utf16"

	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/font/opentype"
)

// objects writes the objects of a PDF file (ISO 32000-1 §7.5), one after the other.
type objects struct {
	out     io.Writer
	at      int   // how many bytes were written
	offsets []int // by number, from 1; 0 while reserved only
	err     error // the first one
}

func (o *objects) write(text string) {
	if o.err != nil {
		return
	}
	n, err := io.WriteString(o.out, text)
	o.at, o.err = o.at+n, err
}

// reserve gives the number of an object that is written later.
func (o *objects) reserve() int {
	if o.at == 0 {
		o.write("%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
	}
	o.offsets = append(o.offsets, 0)
	return len(o.offsets)
}

func (o *objects) put(number int, body string) {
	o.offsets[number-1] = o.at
	o.write(fmt.Sprintf("%d 0 obj\n%s\nendobj\n", number, body))
}

func (o *objects) add(body string) int {
	number := o.reserve()
	o.put(number, body)
	return number
}

// stream adds compressed content; dict holds entries besides length and filter.
func (o *objects) stream(dict string, content []byte) int {
	var packed bytes.Buffer
	z := zlib.NewWriter(&packed)
	_, _ = z.Write(content) // a buffer takes everything
	_ = z.Close()
	return o.rawStream(dict+" /Filter /FlateDecode", packed.Bytes())
}

func (o *objects) rawStream(dict string, content []byte) int {
	return o.add(fmt.Sprintf("<< %s /Length %d >>\nstream\n%s\nendstream", dict, len(content), content))
}

// finish writes what leads to the objects.
func (o *objects) finish(root, info int) error {
	start := o.at
	o.write(fmt.Sprintf("xref\n0 %d\n0000000000 65535 f \n", len(o.offsets)+1))
	for _, offset := range o.offsets {
		o.write(fmt.Sprintf("%010d 00000 n \n", offset))
	}
	o.write(fmt.Sprintf(
		"trailer\n<< /Size %d /Root %d 0 R /Info %d 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(o.offsets)+1, root, info, start,
	))
	return o.err
}

// text writes a text string (ISO 32000-1 §7.9.2.2): UTF-16 with its mark.
func text(s string) string {
	var b strings.Builder
	b.WriteString("<FEFF")
	for _, unit := range utf16.Encode([]rune(s)) {
		hexByte(&b, int(unit>>8))
		hexByte(&b, int(unit&0xff))
	}
	return b.String() + ">"
}

// hexByte writes two hexadecimal digits.
func hexByte(b *strings.Builder, v int) {
	const digits = "0123456789ABCDEF"
	b.WriteByte(digits[v>>4])
	b.WriteByte(digits[v&15])
}

// glyph is a shape of a face.
type glyph struct {
	face *font.Face
	id   font.GID
}

// place is where a glyph stands in the fonts of the file: a Type 3 font (ISO
// 32000-1 §9.6.5) has shapes for up to 256 codes. Shapes rather than font
// programs, because the weight of a variable font is worked out here. The width is
// in thousandths of the size.
type place struct {
	font, code int
	width      float64
}

type shapes struct {
	glyphs []glyph // in the order of their places
	places map[glyph]place
}

const codes = 256

func (t *shapes) place(g glyph) place {
	if at, known := t.places[g]; known {
		return at
	}
	at := place{len(t.glyphs) / codes, len(t.glyphs) % codes, g.width()}
	t.places[g] = at
	t.glyphs = append(t.glyphs, g)
	return at
}

// width is how far a glyph leads, in thousandths of the size, as the file says it.
func (g glyph) width() float64 {
	return math.Round(float64(g.face.HorizontalAdvance(g.id))*10000/float64(g.face.Upem())) / 10
}

// write adds the fonts and returns the resources that name them.
func (t *shapes) write(o *objects) string {
	var names strings.Builder
	n := 0
	for some := range slices.Chunk(t.glyphs, codes) {
		fmt.Fprintf(&names, "/F%d %d 0 R ", n, t.font(o, some))
		n++
	}
	return "/Font << " + names.String() + ">>"
}

// font adds one Type 3 font, in thousandths of its size.
func (t *shapes) font(o *objects, some []glyph) int {
	var shapes, names, widths strings.Builder
	for code, g := range some {
		scale := 1000 / float32(g.face.Upem())
		width := g.width()
		shape := o.stream("", []byte(fmt.Sprintf("%.1f 0 d0\n", width)+outline(g, scale)))
		fmt.Fprintf(&shapes, "/g%d %d 0 R ", code, shape)
		fmt.Fprintf(&names, "/g%d ", code)
		fmt.Fprintf(&widths, "%.1f ", width)
	}
	return o.add(fmt.Sprintf("<< /Type /Font /Subtype /Type3 /FontBBox [0 0 0 0] /FontMatrix [0.001 0 0 0.001 0 0] /Resources << >> "+
		"/CharProcs << %s>> /Encoding << /Type /Encoding /Differences [0 %s] >> /FirstChar 0 /LastChar %d /Widths [%s] >>",
		shapes.String(), names.String(), len(some)-1, widths.String()))
}

// outline draws a glyph; PDF has cubic curves only.
func outline(g glyph, scale float32) string {
	shape, ok := g.face.GlyphDataOutline(g.id)
	if !ok {
		return ""
	}
	var b strings.Builder
	var at opentype.SegmentPoint
	for _, s := range shape.Segments {
		points := s.ArgsSlice()
		switch s.Op {
		case opentype.SegmentOpMoveTo:
			fmt.Fprintf(&b, "%.1f %.1f m\n", points[0].X*scale, points[0].Y*scale)
		case opentype.SegmentOpLineTo:
			fmt.Fprintf(&b, "%.1f %.1f l\n", points[0].X*scale, points[0].Y*scale)
		case opentype.SegmentOpQuadTo:
			c, to := points[0], points[1]
			fmt.Fprintf(&b, "%.1f %.1f %.1f %.1f %.1f %.1f c\n", (at.X+2*c.X)/3*scale, (at.Y+2*c.Y)/3*scale,
				(to.X+2*c.X)/3*scale, (to.Y+2*c.Y)/3*scale, to.X*scale, to.Y*scale)
		case opentype.SegmentOpCubeTo:
			fmt.Fprintf(&b, "%.1f %.1f %.1f %.1f %.1f %.1f c\n", points[0].X*scale, points[0].Y*scale,
				points[1].X*scale, points[1].Y*scale, points[2].X*scale, points[2].Y*scale)
		}
		at = points[len(points)-1]
	}
	return b.String() + "f\n"
}

// Finish writes the document as a PDF file (ISO 32000-1) with a title.
func (d *Document) Finish(title string) ([]byte, error) {
	err := d.End(title)
	return d.whole.Bytes(), err
}

// End completes a document with a title.
func (d *Document) End(title string) error {
	d.endPage()
	if d.faces.err != nil {
		return d.faces.err
	}
	o := &d.objects
	resources := "<< " + d.shapes.write(o) + " /XObject << "
	for _, p := range d.pictures {
		if p.object > 0 {
			resources += fmt.Sprintf("/P%d %d 0 R ", p.object, p.object)
		}
	}
	o.put(d.resources, resources+">> >>")
	var pages strings.Builder
	for _, page := range d.pages {
		fmt.Fprintf(&pages, "%d 0 R ", page)
	}
	o.put(d.tree, fmt.Sprintf("<< /Type /Pages /Kids [%s] /Count %d >>", pages.String(), len(d.pages)))
	root := o.add(fmt.Sprintf("<< /Type /Catalog /Pages %d 0 R /Lang %s >>", d.tree, text(d.tag)))
	info := o.add(fmt.Sprintf("<< /Title %s /Producer %s >>", text(title), text("Upper Lantern")))
	return o.finish(root, info)
}

// Err is the first thing that went wrong, in fonts or in writing.
func (d *Document) Err() error { return errors.Join(d.faces.err, d.objects.err) }

// endPage writes the page that was set; an empty one is none.
func (d *Document) endPage() {
	if d.page.Len() == 0 {
		return
	}
	d.setFoot()
	content := d.objects.stream("", []byte(d.page.String()))
	d.pages = append(d.pages, d.objects.add(fmt.Sprintf(
		"<< /Type /Page /Parent %d 0 R /MediaBox [0 0 %.2f %.2f] /Resources %d 0 R /Contents %d 0 R >>", d.tree, d.wide, d.high,
		d.resources, content,
	)))
	d.page.Reset()
}
