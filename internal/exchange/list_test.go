package exchange_test

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"upperlantern/internal/exchange"
	"upperlantern/internal/testkit/pdf"
	"upperlantern/internal/typeset"
	"upperlantern/web"
)

func interfaceFonts() (*typeset.Fonts, error) { return typeset.OpenFonts(web.Files()) }

func figure(n float64, text string) exchange.ListCell {
	return exchange.ListCell{Text: text, Number: &n}
}

var outing = exchange.List{
	Title: "Outing <moved>", About: []string{"in the last 30 days", "to the group Junior & squads"},
	Made: "made on 27 November 2026 by Hugo Farrowby", Notes: []string{"A row for each."},
	Columns: []exchange.ListColumn{
		{Name: "Name", Share: 2}, {Name: "Reached", Figure: true}, {Name: "Cost", Figure: true, Money: true},
	},
}

var outingRows = [][]exchange.ListCell{
	{{Text: "رانيا حداد"}, figure(1234, "1,234"), figure(2.915, "£2.92")},
	{{Text: "=1+1, \"quoted\" <b>\nand 陈伟"}, figure(0, "0"), {Text: "€1.00 + £2.00"}},
}

var outingTotal = []exchange.ListCell{{Text: "Together"}, figure(1234, "1,234"), figure(3, "zł 3.00")}

func written(t *testing.T, f exchange.Format) []byte {
	t.Helper()
	var out bytes.Buffer
	w, err := exchange.NewListWriter(f, &out, outing, interfaceFonts)
	require.NoError(t, err)
	for _, row := range outingRows {
		require.NoError(t, w.Row(row, false))
	}
	require.NoError(t, w.Row(outingTotal, true))
	require.NoError(t, w.Close())
	return out.Bytes()
}

func TestAListAsCSV(t *testing.T) {
	table, err := exchange.ReadCSV(written(t, exchange.CSV))
	require.NoError(t, err)
	assert.Equal(t, []string{"Name", "Reached", "Cost"}, table.Header)
	assert.Equal(t, []string{"رانيا حداد", "1234", "£2.92"}, table.Rows[0].Cells)
	assert.Equal(t, "=1+1, \"quoted\" <b>\nand 陈伟", table.Rows[1].Cells[0], "read back as it was")
	file := string(written(t, exchange.CSV))
	assert.Contains(t, file, `"'=1+1, `, "no spreadsheet computes it")
	assert.Contains(t, file, "\r\nOuting <moved>\r\nin the last 30 days\r\nto the group Junior & squads\r\nmade on 27 November")
}

func TestAListAsWorkbook(t *testing.T) {
	book, err := excelize.OpenReader(bytes.NewReader(written(t, exchange.Workbook)))
	require.NoError(t, err)
	defer func() { require.NoError(t, book.Close()) }()
	for place, want := range map[string]string{
		"A1": "Name", "A2": "رانيا حداد", "B2": "1234", "C2": "£2.92", "A3": "=1+1, \"quoted\" <b>\nand 陈伟", "C3": "€1.00 + £2.00",
		"A4": "Together", "C4": "zł 3.00",
	} {
		cell, err := book.GetCellValue("List", place)
		require.NoError(t, err)
		assert.Equal(t, want, cell, place)
	}
	raw, err := book.GetCellValue("List", "C2", excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	assert.Equal(t, "2.915", raw, "an amount is a number, with all that it has")
	formula, err := book.GetCellFormula("List", "A3")
	require.NoError(t, err)
	assert.Empty(t, formula)
	about, err := book.GetCellValue("About", "A3")
	require.NoError(t, err)
	assert.Equal(t, "to the group Junior & squads", about)
}

func TestAListAsPage(t *testing.T) {
	page := string(written(t, exchange.Page))
	for _, want := range []string{
		"<title>Outing &lt;moved&gt;</title>", `<td dir="auto">رانيا حداد</td><td class="n">1,234</td>`, "&lt;b&gt;",
		`<tr class="t"><td dir="auto">Together</td>`, "<p dir=\"auto\">to the group Junior &amp; squads</p>", "A row for each.", "</html>",
	} {
		assert.Contains(t, page, want)
	}
	assert.NotRegexp(t, `(src|href|url)\s*[=(]`, page, "it needs nothing else")
}

func TestAListAsPDF(t *testing.T) {
	pages := pdf.Read(t, written(t, exchange.PDF)).Pages(t)
	require.Len(t, pages, 1)
	said := pdf.Said(pages[0])
	for _, want := range []string{
		"Outing <moved>\n", "to the group Junior & squads\n", "Name\nReached\nCost\n", "رانيا حداد\n1,234\n£2.92\n", "and 陈伟",
		"Together\n1,234\nzł 3.00\n", "A row for each.", "\n1\n",
	} {
		assert.Contains(t, said, want)
	}
}

// The heads of a table stand on each page, no row is lost, and nothing runs off a page.
func TestALongListGoesOnOverleaf(t *testing.T) {
	var out bytes.Buffer
	w, err := exchange.NewListWriter(exchange.PDF, &out, outing, interfaceFonts)
	require.NoError(t, err)
	for n := range 100 {
		require.NoError(t, w.Row([]exchange.ListCell{{Text: fmt.Sprintf("row %d of them, which is long enough for two lines of the first column. %s", n, strings.Repeat("More of it. ", 8))}, {}, {}}, false))
	}
	require.NoError(t, w.Close())
	pages := pdf.Read(t, out.Bytes()).Pages(t)
	require.Greater(t, len(pages), 3)
	n := 0
	for _, page := range pages {
		said := pdf.Said(page)
		assert.Equal(t, 1, strings.Count(said, "Name\nReached\nCost\n"))
		for strings.Contains(said, fmt.Sprintf("row %d of", n)) {
			n++
		}
	}
	assert.Equal(t, 100, n)
}

// failing takes so many bytes and then fails, as a disk that is full.
type failing int

var errFull = errors.New("no room")

func (f *failing) Write(p []byte) (int, error) {
	if *f -= failing(len(p)); *f < 0 {
		return 0, errFull
	}
	return len(p), nil
}

func TestAListThatCannotBeWrittenSaysSo(t *testing.T) {
	for _, f := range exchange.ListFormats {
		t.Run(string(f), func(t *testing.T) {
			room := failing(100)
			w, err := exchange.NewListWriter(f, &room, outing, interfaceFonts)
			for n := 0; err == nil && n < 3000; n++ {
				err = w.Row(outingRows[0], false)
			}
			if w != nil {
				err = errors.Join(err, w.Close())
			}
			assert.ErrorIs(t, err, errFull)
		})
	}
	_, err := exchange.NewListWriter("doc", io.Discard, outing, interfaceFonts)
	require.ErrorIs(t, err, exchange.ErrFormat)
	none := func() (*typeset.Fonts, error) { return nil, typeset.ErrNoFonts }
	_, err = exchange.NewListWriter(exchange.PDF, io.Discard, outing, none)
	assert.ErrorIs(t, err, typeset.ErrNoFonts)
}

// However long a list is, little of it is in memory at a time.
func TestALongListTakesLittleMemory(t *testing.T) {
	const rows, most = 60_000, 24 << 20
	for _, f := range exchange.ListFormats {
		if f == exchange.PDF {
			continue // setting so much takes long; what it keeps of a page is its number
		}
		t.Run(string(f), func(t *testing.T) {
			w, err := exchange.NewListWriter(f, io.Discard, outing, interfaceFonts)
			require.NoError(t, err)
			var before, after runtime.MemStats
			runtime.GC()
			runtime.ReadMemStats(&before)
			for range rows {
				require.NoError(t, w.Row(outingRows[0], false))
			}
			runtime.GC()
			runtime.ReadMemStats(&after)
			assert.Less(t, int64(after.HeapAlloc)-int64(before.HeapAlloc), int64(most))
			require.NoError(t, w.Close())
		})
	}
}
