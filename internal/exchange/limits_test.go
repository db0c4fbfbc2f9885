package exchange_test

import (
	"fmt"
	"runtime"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/exchange"
)

// sheetXML is a workbook with one sheet whose rows are written by hand.
func sheetXML(t testing.TB, rows string) []byte {
	return zipped(t, map[string]string{
		"[Content_Types].xml":        `<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>`,
		"_rels/.rels":                `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml":            `<?xml version="1.0"?><workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="People" sheetId="1" r:id="rId1"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels": `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
		"xl/worksheets/sheet1.xml":   `<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>` + rows + `</sheetData></worksheet>`,
	})
}

func inline(cell, text string) string {
	return `<c r="` + cell + `" t="inlineStr"><is><t>` + text + `</t></is></c>`
}

// A small file that would fill the memory is refused with a clear line.
func TestFilesThatHoldTooMuchAreRefused(t *testing.T) {
	var far strings.Builder
	far.WriteString(`<row r="1">` + inline("A1", "Name") + `</row>`)
	for n := range 3000 {
		fmt.Fprintf(&far, `<row r="%d">%s%s</row>`, n+2, inline(fmt.Sprintf("A%d", n+2), "Bo Venn"), inline(
			fmt.Sprintf("XFD%d", n+2), " ",
		))
	}
	wide := strings.TrimSuffix(strings.Repeat("x,", 600), ",")
	var cards strings.Builder
	cards.WriteString("BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Bo Venn\r\n")
	for n := range 2000 {
		fmt.Fprintf(&cards, "X-LANTERN-ATTRIBUTE:a%d=x\r\n", n)
	}
	cards.WriteString("END:VCARD\r\n")
	for name, c := range map[string]struct {
		file []byte
		says string
	}{
		"cells in the last column":  {sheetXML(t, far.String()), "more than 5000000 cells"},
		"a row of 600 cells":        {[]byte(wide + "\n" + wide), "a row has 600 columns, and no more than 500 are read"},
		"one endless line":          {[]byte("Name\n" + strings.Repeat(",", 1<<20)), "line 2 has 1048577 cells"},
		"a card of 2000 attributes": {[]byte(cards.String()), "no more than 500 are read"},
		"many cells":                {[]byte(strings.Repeat(strings.Repeat("1,", 499)+"1\n", 10_100)), "more than 5000000 cells"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := exchange.Read(c.file)
			require.ErrorIs(t, err, exchange.ErrTooMuch)
			assert.ErrorContains(t, err, c.says)
		})
	}
}

// heapWhile runs do and returns the most heap that was in use meanwhile, in bytes.
func heapWhile(do func()) uint64 {
	runtime.GC()
	var most atomic.Uint64
	done := make(chan struct{})
	stopped := make(chan struct{})
	go func() {
		defer close(stopped)
		for {
			select {
			case <-done:
				return
			case <-time.After(2 * time.Millisecond):
				var m runtime.MemStats
				runtime.ReadMemStats(&m)
				most.Store(max(most.Load(), m.HeapInuse))
			}
		}
	}()
	do()
	close(done)
	<-stopped
	return most.Load()
}

// A large workbook is read within 256 MB, and its sheet from disk.
func TestALargeWorkbookIsReadInLittleMemory(t *testing.T) {
	var rows strings.Builder
	rows.WriteString(`<row r="1">` + inline("A1", "Id") + inline("B1", "Name") + inline("C1", "Notes") + `</row>`)
	const people = 120_000
	for n := range people {
		fmt.Fprintf(
			&rows, `<row r="%d">%s%s%s</row>`, n+2, inline(fmt.Sprintf("A%d", n+2), fmt.Sprint("P", n)),
			inline(fmt.Sprintf("B%d", n+2), "Bo Venn"), inline(fmt.Sprintf("C%d", n+2), "likes rain"),
		)
	}
	file := sheetXML(t, rows.String())
	rows.Reset()
	var table *exchange.Table
	heap := heapWhile(func() {
		var err error
		table, err = exchange.Read(file)
		require.NoError(t, err)
	})
	assert.Len(t, table.Rows, people)
	assert.Less(t, heap, uint64(256<<20), "%d MB", heap>>20)
}
