package typeset

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	_ "image/gif" // pictures that can be in a letter
	"image/jpeg"
	_ "image/png"
	"strings"

	"upperlantern/internal/core/rich"
)

// picture is an image of the file; object is 0 for one that cannot be drawn.
type picture struct {
	object        int
	width, height int
}

// mostPixels is how large a picture can be; larger ones say what they show.
const mostPixels = 40_000_000

// picture draws an image as wide as the page at most, or says what it shows.
func (d *Document) picture(n rich.Node) {
	hash := strings.TrimPrefix(n.Attrs.Src, "file:")
	p := d.pictures[hash]
	if p.object == 0 {
		if n.Attrs.Alt != "" {
			d.Line("["+n.Attrs.Alt+"]", Style{Size: BodySize, Grey: true})
		}
		return
	}
	const perInch = 96.0 // pixels, as browsers show them
	w := min(float64(p.width)*72/perInch, d.width())
	h := w * float64(p.height) / float64(p.width)
	if most := d.high - 2*d.margin; h > most {
		w, h = w*most/h, most
	}
	d.Space(5)
	d.down(h)
	fmt.Fprintf(&d.page, "q %.2f 0 0 %.2f %.2f %.2f cm /P%d Do Q\n", w, h, d.margin, d.y, p.object)
	d.Space(5)
}

// HasPicture reports whether a picture was added under the hash of its file.
func (d *Document) HasPicture(hash string) bool {
	_, known := d.pictures[hash]
	return known
}

// AddPicture adds the content of an image under the hash of its file. One that
// cannot be read, or nil, is said in words where it stands.
func (d *Document) AddPicture(hash string, content []byte) {
	d.pictures[hash] = d.objects.addPicture(content)
}

// addPicture adds an image to the file. One that cannot be read is none.
func (o *objects) addPicture(content []byte) picture {
	config, format, err := image.DecodeConfig(bytes.NewReader(content))
	if err != nil || config.Width*config.Height > mostPixels || config.Width < 1 || config.Height < 1 {
		return picture{}
	}
	p := picture{width: config.Width, height: config.Height}
	dict := fmt.Sprintf("/Type /XObject /Subtype /Image /Width %d /Height %d /BitsPerComponent 8", p.width, p.height)
	if format == "jpeg" && config.ColorModel == color.YCbCrModel {
		p.object = o.rawStream(dict+" /ColorSpace /DeviceRGB /Filter /DCTDecode", content)
		return p
	}
	shown, _, err := image.Decode(bytes.NewReader(content))
	if err != nil {
		return picture{}
	}
	p.object = o.rawStream(dict+" /ColorSpace /DeviceRGB /Filter /DCTDecode", onWhite(shown))
	return p
}

// onWhite writes an image as JPEG, as it looks on paper.
func onWhite(shown image.Image) []byte {
	paper := image.NewRGBA(image.Rect(0, 0, shown.Bounds().Dx(), shown.Bounds().Dy()))
	for y := range paper.Bounds().Dy() {
		for x := range paper.Bounds().Dx() {
			r, g, b, a := shown.At(shown.Bounds().Min.X+x, shown.Bounds().Min.Y+y).RGBA()
			clear := 0xffff - a
			paper.Set(x, y, color.RGBA64{R: uint16(r + clear), G: uint16(g + clear), B: uint16(b + clear), A: 0xffff})
		}
	}
	var out bytes.Buffer
	_ = jpeg.Encode(&out, paper, &jpeg.Options{Quality: 90}) // a buffer takes everything
	return out.Bytes()
}
