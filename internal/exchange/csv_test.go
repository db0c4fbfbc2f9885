package exchange_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"

	"upperlantern/internal/exchange"
)

func TestReadCSV(t *testing.T) {
	windows, err := charmap.Windows1252.NewEncoder().String("Name;Ort\r\nIñigo Cañada;Über – die “Brücke”\r\n")
	require.NoError(t, err)
	for _, c := range []struct {
		name, file, encoding string
		delimiter            rune
		first                []string
	}{
		{"plain", "Name,Group\nBo,U14\n", "UTF-8", ',', []string{"Bo", "U14"}},
		{"with a byte order mark", "\xef\xbb\xbfName,Group\r\nMichał,U14\r\n", "UTF-8", ',', []string{"Michał", "U14"}},
		{"semicolons and Windows-1252", windows, "Windows-1252", ';', []string{"Iñigo Cañada", "Über – die “Brücke”"}},
		{"tabs", "Name\tNote, short\nBo\ta,b\n", "UTF-8", '\t', []string{"Bo", "a,b"}},
		{"quoted new lines and delimiters", "Name,Note\n\"Bo\",\"two\nlines, \"\"quoted\"\"\"\n", "UTF-8", ',', []string{"Bo", "two\nlines, \"quoted\""}},
		{"a delimiter within a quoted heading", "\"Name; full\",Note\nBo,x\n", "UTF-8", ',', []string{"Bo", "x"}},
		{"a short row", "Name,Note,More\nBo\n", "UTF-8", ',', []string{"Bo"}},
		{"no new line at the end", "Name\nBo", "UTF-8", ',', []string{"Bo"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			table, err := exchange.ReadCSV([]byte(c.file))
			require.NoError(t, err)
			assert.Equal(t, c.encoding, table.Encoding)
			assert.Equal(t, c.delimiter, table.Delimiter)
			require.Len(t, table.Rows, 1)
			assert.Equal(t, c.first, table.Rows[0].Cells)
			assert.Equal(t, 2, table.Rows[0].Line)
			assert.Empty(t, table.Unread)
		})
	}
}

func TestReadCSVRefusesWhatIsNoCSV(t *testing.T) {
	for name, c := range map[string]struct {
		file string
		want error
	}{
		"empty":              {"", exchange.ErrEmpty},
		"only a mark":        {"\xef\xbb\xbf\n\n", exchange.ErrEmpty},
		"half a workbook":    {"PK\x03\x04\x14\x00\x06\x00", exchange.ErrBrokenZip},
		"zeros":              {"\x00\x01\x02\x03\x00\x00\x07\x08\x00\x00\x00", exchange.ErrNotCSV},
		"a broken first row": {"Na\"me,b\n1,2\n", exchange.ErrHeadings},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := exchange.Read([]byte(c.file))
			require.ErrorIs(t, err, c.want)
		})
	}
}

func TestReadCSVKeepsLinesThatCanBeRead(t *testing.T) {
	table, err := exchange.ReadCSV([]byte("Name,Note\nBo,x\nCy,a\"b\n\n,\nDi,y,z\nEve,\"two\nlines\"\nFay,w\n"))
	require.NoError(t, err)
	var lines []int
	for _, r := range table.Rows {
		lines = append(lines, r.Line)
	}
	assert.Equal(t, []int{2, 7, 9}, lines)
	require.Len(t, table.Unread, 2)
	assert.Equal(t, 3, table.Unread[0].Line)
	assert.Contains(t, table.Unread[0].Reason, "quotation mark")
	assert.Equal(t, 6, table.Unread[1].Line)
	assert.Equal(t, "the row has 3 cells below 2 headings", table.Unread[1].Reason)
}

func FuzzReadCSV(f *testing.F) {
	for _, s := range []string{"", "a,b\n1,2\n", "a;b\n\"1\n2\";3", "\xef\xbb\xbfa\tb\n", "a\"b\n", "\x93a\x94;b\n1;2"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, file []byte) {
		table, err := exchange.ReadCSV(file)
		if err != nil {
			return
		}
		for _, r := range table.Rows {
			if len(r.Cells) > len(table.Header) {
				t.Fatal("a row is wider than the headings")
			}
		}
	})
}
