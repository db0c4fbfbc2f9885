package exchange

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"path"
	"strings"
)

// Bundled is one file of several that travel together.
type Bundled struct {
	Name    string
	Content []byte
}

// Limits of a bundle.
const (
	mostBundled       = 60
	largestBundledAll = 32 << 20 // bytes of all files, unzipped
	xlf, xliff        = ".xlf", ".xliff"
)

// WriteBundle zips files (PKWARE APPNOTE).
func WriteBundle(files []Bundled) ([]byte, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, f := range files {
		w, err := z.Create(f.Name)
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(f.Content); err != nil {
			return nil, err
		}
	}
	err := z.Close() // writes the list of the files
	return b.Bytes(), err
}

// ReadXLIFFs reads an XLIFF file, or a zipped bundle of them: of each language one.
// Other files in a bundle are passed over.
func ReadXLIFFs(content []byte) ([]XLIFF, error) {
	if !bytes.HasPrefix(content, []byte("PK\x03\x04")) {
		x, err := ReadXLIFF(content)
		return []XLIFF{x}, err
	}
	z, err := zip.NewReader(bytes.NewReader(content), int64(len(content)))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBrokenZip, err)
	}
	var list []XLIFF
	left := int64(largestBundledAll)
	for _, f := range z.File {
		if end := strings.ToLower(path.Ext(f.Name)); end != xlf && end != xliff {
			continue
		}
		if len(list) == mostBundled {
			return nil, fmt.Errorf("%w: it holds more than %d files", ErrTooMuch, mostBundled)
		}
		x, size, err := readBundledXLIFF(f, left)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
		left -= size
		list = append(list, x)
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("%w: the zipped file holds none", ErrXLIFF)
	}
	return list, nil
}

// readBundledXLIFF reads no more than is left, whatever size the bundle claims.
func readBundledXLIFF(f *zip.File, left int64) (XLIFF, int64, error) {
	r, err := f.Open()
	if err != nil {
		return XLIFF{}, 0, fmt.Errorf("%w: %w", ErrBrokenZip, err)
	}
	defer r.Close() //nolint:errcheck // it is only read
	content, err := io.ReadAll(io.LimitReader(r, left+1))
	if err != nil {
		return XLIFF{}, 0, fmt.Errorf("%w: %w", ErrBrokenZip, err)
	}
	if int64(len(content)) > left {
		return XLIFF{}, 0, ErrBomb
	}
	x, err := ReadXLIFF(content)
	return x, int64(len(content)), err
}
