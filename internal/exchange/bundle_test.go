package exchange

import (
	"archive/zip"
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/lines"
)

func xliffOf(to string) XLIFF {
	return XLIFF{File: "7", From: "en", To: to, Units: []XLIFFUnit{{
		ID: "0123456789abcdef0123456789abcdef", Source: lines.Line{Text: "Come", Places: []lines.Placeholder{}}, Target: to, State: Translated,
	}}}
}

// zipped is a bundle with files of given names and contents, in pairs.
func zipped(t testing.TB, pairs ...string) []byte {
	t.Helper()
	var files []Bundled
	for i := 0; i < len(pairs); i += 2 {
		files = append(files, Bundled{pairs[i], []byte(pairs[i+1])})
	}
	content, err := WriteBundle(files)
	require.NoError(t, err)
	return content
}

func TestABundleOfXLIFF(t *testing.T) {
	pl, ar := string(WriteXLIFF(xliffOf("pl"))), string(WriteXLIFF(xliffOf("ar")))
	list, err := ReadXLIFFs(zipped(t, "copy.pl.xlf", pl, "read me.txt", "hello", "sub/copy.ar.XLIFF", ar))
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "pl", list[0].To)
	assert.Equal(t, "ar", list[1].Units[0].Target)
	list, err = ReadXLIFFs([]byte(pl))
	require.NoError(t, err)
	assert.Equal(t, "pl", list[0].To, "one file alone")
}

func TestABundleThatIsNone(t *testing.T) {
	pl := string(WriteXLIFF(xliffOf("pl")))
	var many []string
	for range mostBundled + 1 {
		many = append(many, "a.xlf", pl)
	}
	for _, c := range []struct {
		name    string
		content []byte
		err     error
	}{
		{"cut", zipped(t, "a.xlf", pl)[:60], ErrBrokenZip},
		{"without one", zipped(t, "a.txt", "x"), ErrXLIFF},
		{"with one that is none", zipped(t, "a.xlf", pl, "b.xlf", "<html/>"), ErrXLIFF},
		{"with too many", zipped(t, many...), ErrTooMuch},
		{"a bomb", zipped(t, "a.xlf", string(bytes.Repeat([]byte(" "), largestBundledAll+1))), ErrBomb},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, err := ReadXLIFFs(c.content)
			require.ErrorIs(t, err, c.err)
		})
	}
}

func FuzzReadXLIFFs(f *testing.F) {
	f.Add(zipped(f, "a.xlf", string(WriteXLIFF(xliffOf("pl")))))
	f.Add([]byte("PK\x03\x04"))
	f.Fuzz(func(t *testing.T, content []byte) {
		list, err := ReadXLIFFs(content)
		if err == nil && len(list) == 0 {
			t.Fatal("nothing was read, and no error said so")
		}
		if _, err := zip.NewReader(bytes.NewReader(content), int64(len(content))); err != nil && bytes.HasPrefix(content, []byte("PK\x03\x04")) && list != nil {
			t.Fatal("a broken bundle was read")
		}
	})
}
