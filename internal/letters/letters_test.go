package letters_test

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"io/fs"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/rich"
	"upperlantern/internal/letters"
	"upperlantern/internal/testkit/pdf"
	"upperlantern/internal/typeset"
	"upperlantern/web"
)

func fonts(t *testing.T) *typeset.Fonts {
	t.Helper()
	f, err := typeset.OpenFonts(web.Files())
	require.NoError(t, err, "the interface is built before its fonts are used")
	return f
}

func write(t *testing.T, b letters.Batch) pdf.File {
	t.Helper()
	if b.Picture == nil {
		b.Picture = func(string) []byte { return nil }
	}
	file, err := letters.Write(fonts(t), b)
	require.NoError(t, err)
	return pdf.Read(t, file)
}

func TestALetterForEachHousehold(t *testing.T) {
	p := write(t, letters.Batch{
		Organisation: "Quillmere Rowing Club", Language: "en", Date: "25 November 2026",
		Letters: []letters.Letter{
			{Names: []string{"Łukasz Kłos", "رانيا حداد", "陈伟"}, Address: "12 Fen Row\nQuillmere", Subject: "Capsize drill", Body: rich.Lines("Dear all,\n\nbring a towel.")},
			{Names: []string{"Di Venn"}, Body: rich.Lines("Рушник, 毛巾, khăn tắm 🛶")},
		},
	})
	pages := p.Pages(t)
	require.Equal(t, 2, len(pages))
	for _, want := range []string{
		"Quillmere Rowing Club\n", "Łukasz Kłos\n", "رانيا حداد\n", "陈伟\n", "12 Fen Row\n", "25 November 2026\n",
		"Capsize drill\n", "bring a towel.\n",
	} {
		assert.Contains(t, pdf.Said(pages[0]), want)
	}
	assert.False(t, strings.Contains(pages[0], "[1 2] 0 d"), "there is an address")
	assert.Contains(t, pdf.Said(pages[1]), "Рушник, 毛巾, khăn tắm 🛶")
	assert.True(t, strings.Contains(pages[1], "[1 2] 0 d"), "room to write the address")
}

// xs are where the glyphs of the first line that begins with a text stand.
func xs(t *testing.T, page, text string) []float64 {
	t.Helper()
	var list []float64
	for line := range strings.SplitSeq(page, "BT\n") {
		if !strings.HasPrefix(strings.TrimSpace(pdf.Said(line)), text) || len(list) > 0 {
			continue
		}
		for _, m := range regexp.MustCompile(`1 0 [\d.]+ 1 ([\d.]+) [\d.]+ Tm`).FindAllStringSubmatch(line, -1) {
			x, err := strconv.ParseFloat(m[1], 64)
			require.NoError(t, err)
			list = append(list, x)
		}
	}
	require.NotEmpty(t, list, text)
	return list
}

func TestTextStandsWhereItsScriptBegins(t *testing.T) {
	letter := letters.Letter{Names: []string{"رانيا"}, Body: rich.Lines("Come\nمرحبا رانيا")}
	english := write(t, letters.Batch{Language: "en", Date: "1 May", Letters: []letters.Letter{letter}}).Pages(t)[0]
	arabic := write(t, letters.Batch{Language: "ar", Date: "1 May", Letters: []letters.Letter{letter}}).Pages(t)[0]
	assert.InDelta(t, 64, xs(t, english, "Come")[0], 1)
	assert.Greater(t, xs(t, english, "مرحبا")[0], 400.0, "a line in Arabic ends at the right edge")
	assert.Less(t, xs(t, english, "رانيا")[0], 100.0, "a name stands in the block of the letter")
	assert.Greater(t, xs(t, arabic, "رانيا")[0], 400.0)
	assert.Greater(t, xs(t, english, "1 May")[0], 400.0)
	assert.InDelta(t, 64, xs(t, arabic, "1 May")[0], 1, "the date stands opposite")
}

func TestALongLetterGoesOnOverleaf(t *testing.T) {
	long := strings.Repeat("The water rises at the weir and falls at the mill. ", 100)
	p := write(t, letters.Batch{
		Language: "en", Letters: []letters.Letter{{Body: rich.Lines(long)}, {Names: []string{"Di Venn"}}},
	})
	pages := p.Pages(t)
	require.Equal(t, 3, len(pages))
	assert.NotContains(t, pdf.Said(pages[1]), "Di Venn")
	assert.Contains(t, pdf.Said(pages[2]), "Di Venn", "the next letter begins a page")
	var all []string
	for _, page := range pages[:2] {
		all = append(all, strings.Fields(pdf.Said(page))...)
	}
	assert.Equal(t, strings.Fields(long), all, "no word is lost")
	for _, m := range regexp.MustCompile(` ([\d.]+) Tm`).FindAllStringSubmatch(strings.Join(pages, ""), -1) {
		y, err := strconv.ParseFloat(m[1], 64)
		require.NoError(t, err)
		require.Greater(t, y, 60.0, "nothing runs off the page")
	}
}

func node(kind string, content ...rich.Node) rich.Node {
	return rich.Node{Type: kind, Content: content}
}

func words(text string, marks ...string) rich.Node {
	n := rich.Node{Type: rich.Text, Text: text}
	for _, m := range marks {
		n.Marks = append(n.Marks, rich.Mark{Type: m, Attrs: &rich.Attrs{Href: "https://quillmere.example"}})
	}
	return n
}

func TestFormatting(t *testing.T) {
	item := func(text string) rich.Node { return node(rich.ListItem, node(rich.Paragraph, words(text))) }
	heading := node(rich.Heading, words("What to bring"))
	heading.Attrs = &rich.Attrs{Level: 2}
	page := write(t, letters.Batch{Language: "en", Letters: []letters.Letter{{Body: rich.Doc{Content: []rich.Node{
		heading,
		node(rich.Paragraph, words("See "), words("our page", rich.Link), words(" now", rich.Italic), node(rich.Break), words(
			"Thanks", rich.Bold,
		)),
		node(rich.OrderedList, item("a towel"), item("a bag")),
		node(rich.BulletList, item("سامي")),
	}}}}}).Pages(t)[0]
	text := pdf.Said(page)
	for _, want := range []string{
		"What to bring\n", "See our page (https://quillmere.example) now\nThanks\n", "1.\na towel\n", "2.\na bag\n",
		"•\nسامي\n",
	} {
		assert.Contains(t, text, want)
	}
	assert.True(t, strings.Contains(page, "1 0 0.2 1 "), "italics lean")
	assert.Greater(t, xs(t, page, "a towel")[0], xs(t, page, "See our page")[0])
	assert.Greater(t, xs(t, page, "•")[0], 400.0, "the mark of an item stands where its text begins")
}

func TestPictures(t *testing.T) {
	picture := func(w, h int) *image.NRGBA {
		img := image.NewNRGBA(image.Rect(0, 0, w, h))
		img.Set(0, 0, color.NRGBA{R: 200, A: 128})
		return img
	}
	var asPNG, asJPEG bytes.Buffer
	require.NoError(t, png.Encode(&asPNG, picture(40, 20)))
	require.NoError(t, jpeg.Encode(&asJPEG, picture(2000, 1000), nil))
	files := map[string][]byte{
		strings.Repeat("a", 64): asPNG.Bytes(), strings.Repeat("b", 64): asJPEG.Bytes(),
		strings.Repeat("c", 64): []byte("no picture"),
	}
	shows := func(letter string) rich.Node {
		return rich.Node{Type: rich.Image, Attrs: &rich.Attrs{Src: "file:" + strings.Repeat(letter, 64), Alt: "the lock"}}
	}
	body := rich.Doc{Content: []rich.Node{shows("a"), shows("b"), shows("c"), shows("d")}}
	p := write(t, letters.Batch{Language: "en", Picture: func(hash string) []byte { return files[hash] }, Letters: []letters.Letter{{Body: body}, {Body: body}}})
	images := 0
	for _, o := range p.Objects {
		if strings.Contains(o, "/Subtype /Image") {
			images++
		}
	}
	assert.Equal(t, 2, images, "each stands in the file once")
	page := p.Pages(t)[0]
	assert.Contains(t, page, "q 30.00 0 0 15.00", "as large as on the screen")
	assert.Contains(t, page, "q 467.28 0 0 233.64", "no wider than the page")
	assert.Equal(t, 2, strings.Count(pdf.Said(page), "[the lock]"), "what cannot be shown is said")
}

func TestFontsThatAreNotThere(t *testing.T) {
	built := func(manifest string) fstest.MapFS {
		return fstest.MapFS{typeset.Manifest: {Data: []byte(manifest)}}
	}
	for name, files := range map[string]fs.FS{"none": nil, "not built": fstest.MapFS{}, "empty": built("[]")} {
		_, err := typeset.OpenFonts(files)
		require.ErrorIs(t, err, typeset.ErrNoFonts, name)
	}
	_, err := typeset.OpenFonts(built("{"))
	require.ErrorContains(t, err, typeset.Manifest)
	list := `[{"family": "Noto Sans Variable", "path": "assets/a.woff2", "characters": %q}]`
	for _, broken := range []string{"U+XYZ", "U+1-", ""} {
		_, err = typeset.OpenFonts(built(fmt.Sprintf(list, broken)))
		require.ErrorContains(t, err, "a.woff2", broken)
	}
	f, err := typeset.OpenFonts(built(fmt.Sprintf(list, "U+??")))
	require.NoError(t, err)
	_, err = letters.Write(f, letters.Batch{Language: "en", Letters: []letters.Letter{{Names: []string{"Ana"}}}})
	require.ErrorContains(t, err, "a.woff2")
}
