// Package pdf reads back the PDF files that the program writes, for tests.
package pdf

import (
	"bytes"
	"compress/zlib"
	"fmt"
	"io"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/require"
)

// File is a file that was read back: its objects by number, and what stands in
// the streams.
type File struct {
	Objects map[int]string
	Streams map[int]string
}

var (
	entry   = regexp.MustCompile(`(?m)^(\d{10}) 00000 n `)
	stream  = regexp.MustCompile(`(?s)^\d+ 0 obj\n<<(.*?)>>\nstream\n`)
	actual  = regexp.MustCompile(`/ActualText <FEFF([0-9A-F]*)>`)
	trailer = regexp.MustCompile(`startxref\n(\d+)\n%%EOF\n$`)
)

// Read takes a file apart along its cross-reference table, as a reader does.
func Read(t testing.TB, file []byte) File {
	t.Helper()
	require.True(t, bytes.HasPrefix(file, []byte("%PDF-1.7\n")))
	at := trailer.FindSubmatch(file)
	require.NotNil(t, at, "the file ends where its table begins")
	start, err := strconv.Atoi(string(at[1]))
	require.NoError(t, err)
	require.True(t, bytes.HasPrefix(file[start:], []byte("xref\n")))
	p := File{map[int]string{}, map[int]string{}}
	for i, m := range entry.FindAllSubmatch(file[start:], -1) {
		offset, err := strconv.Atoi(string(m[1]))
		require.NoError(t, err)
		begins := fmt.Sprintf("%d 0 obj\n", i+1)
		require.True(t, bytes.HasPrefix(file[offset:], []byte(begins)), "object %d is where the table says", i+1)
		body, _, ends := bytes.Cut(file[offset:], []byte("\nendobj\n"))
		require.True(t, ends)
		p.Objects[i+1] = string(body)
		if head := stream.FindSubmatchIndex(body); head != nil && strings.Contains(
			string(body[head[2]:head[3]]), "FlateDecode",
		) {
			z, err := zlib.NewReader(bytes.NewReader(body[head[1]:]))
			require.NoError(t, err)
			content, err := io.ReadAll(z)
			require.NoError(t, err)
			p.Streams[i+1] = string(content)
		}
	}
	return p
}

// Pages are the contents of the pages.
func (p File) Pages(t testing.TB) []string {
	t.Helper()
	var pages []string
	for i := 1; i <= len(p.Objects); i++ {
		if m := regexp.MustCompile(`/Type /Page /.*/Contents (\d+) 0 R`).FindStringSubmatch(p.Objects[i]); m != nil {
			n, err := strconv.Atoi(m[1])
			require.NoError(t, err)
			pages = append(pages, p.Streams[n])
		}
	}
	return pages
}

// Said is the text of a page, a line for each line.
func Said(page string) string {
	var b strings.Builder
	for line := range strings.SplitSeq(page, "BT\n") {
		for _, m := range actual.FindAllStringSubmatch(line, -1) {
			var units []uint16
			for i := 0; i < len(m[1]); i += 4 {
				u, _ := strconv.ParseUint(m[1][i:i+4], 16, 16)
				units = append(units, uint16(u))
			}
			b.WriteString(string(utf16.Decode(units)))
		}
		b.WriteByte('\n')
	}
	return b.String()
}
