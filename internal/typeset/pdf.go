package typeset

import (
	"bytes"
	"compress/zlib"
	"fmt"
	"slices"
	"strings"
	"unicode/utf16"

	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/font/opentype"
)

// objects writes the objects of a PDF file (ISO 32000-1 §7.5).
type objects struct {
	buf     bytes.Buffer // begins with the header
	offsets []int        // by number, from 1; 0 while reserved only
}

// reserve gives the number of an object that is written later.
func (o *objects) reserve() int {
	if o.buf.Len() == 0 {
		o.buf.WriteString("%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
	}
	o.offsets = append(o.offsets, 0)
	return len(o.offsets)
}

func (o *objects) put(number int, body string) {
	o.offsets[number-1] = o.buf.Len()
	fmt.Fprintf(&o.buf, "%d 0 obj\n%s\nendobj\n", number, body)
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

// finish writes what leads to the objects and returns the file.
func (o *objects) finish(root, info int) []byte {
	start := o.buf.Len()
	fmt.Fprintf(&o.buf, "xref\n0 %d\n0000000000 65535 f \n", len(o.offsets)+1)
	for _, offset := range o.offsets {
		fmt.Fprintf(&o.buf, "%010d 00000 n \n", offset)
	}
	fmt.Fprintf(
		&o.buf, "trailer\n<< /Size %d /Root %d 0 R /Info %d 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(o.offsets)+1, root, info,
		start,
	)
	return o.buf.Bytes()
}

// text writes a text string (ISO 32000-1 §7.9.2.2): UTF-16 with its mark.
func text(s string) string {
	var b strings.Builder
	b.WriteString("<FEFF")
	for _, unit := range utf16.Encode([]rune(s)) {
		fmt.Fprintf(&b, "%04X", unit)
	}
	return b.String() + ">"
}

// glyph is a shape of a face.
type glyph struct {
	face *font.Face
	id   font.GID
}

// place is where a glyph stands in the fonts of the file: a Type 3 font (ISO
// 32000-1 §9.6.5) has shapes for up to 256 codes. Shapes rather than font
// programs, because the weight of a variable font is worked out here.
type place struct{ font, code int }

type shapes struct {
	glyphs []glyph // in the order of their places
	places map[glyph]place
}

const codes = 256

func (t *shapes) place(g glyph) place {
	if at, known := t.places[g]; known {
		return at
	}
	at := place{len(t.glyphs) / codes, len(t.glyphs) % codes}
	t.places[g] = at
	t.glyphs = append(t.glyphs, g)
	return at
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
		width := g.face.HorizontalAdvance(g.id) * scale
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
	d.NewPage()
	if d.faces.err != nil {
		return nil, d.faces.err
	}
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
	root := o.add(fmt.Sprintf("<< /Type /Catalog /Pages %d 0 R /Lang %s >>", tree, text(d.tag)))
	info := o.add(fmt.Sprintf("<< /Title %s /Producer %s >>", text(title), text("Upper Lantern")))
	return o.finish(root, info), nil
}
