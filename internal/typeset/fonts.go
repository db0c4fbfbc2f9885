package typeset

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/font/opentype"
)

// Fonts are the fonts of the interface, which come in pieces by script. They
// can be used by several documents at once.
type Fonts struct {
	files  fs.FS
	pieces []piece

	mu     sync.Mutex
	loaded map[string]*font.Font
}

// piece is a part of a family that has some characters.
type piece struct {
	path   string
	ranges []span
}

type span struct{ from, to rune }

// Manifest lists the fonts of the built interface: an array of path and
// characters (CSS Fonts 4 §4.5), in the order in which they are tried. The build writes it.
const Manifest = "fonts.json"

// ErrNoFonts means that the interface was not built.
var ErrNoFonts = errors.New("the fonts of the interface are not here")

// OpenFonts finds the fonts of the built interface by its manifest.
func OpenFonts(files fs.FS) (*Fonts, error) {
	if files == nil {
		return nil, ErrNoFonts
	}
	list, err := fs.ReadFile(files, Manifest)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, ErrNoFonts
	}
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", Manifest, err)
	}
	var entries []struct{ Path, Characters string }
	if err := json.Unmarshal(list, &entries); err != nil {
		return nil, fmt.Errorf("reading %s: %w", Manifest, err)
	}
	if len(entries) == 0 {
		return nil, ErrNoFonts
	}
	f := &Fonts{files: files, loaded: map[string]*font.Font{}}
	for _, e := range entries {
		ranges, err := spans(e.Characters)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", e.Path, err)
		}
		f.pieces = append(f.pieces, piece{e.Path, ranges})
	}
	return f, nil
}

// spans reads a unicode-range (CSS Fonts 4 §4.5), such as U+??,U+131,U+152-153.
func spans(text string) ([]span, error) {
	var list []span
	for one := range strings.SplitSeq(text, ",") {
		code := strings.TrimPrefix(strings.ToUpper(strings.TrimSpace(one)), "U+")
		first, last, isRange := strings.Cut(code, "-")
		if !isRange {
			first, last = strings.ReplaceAll(code, "?", "0"), strings.ReplaceAll(code, "?", "F")
		}
		from, err := strconv.ParseUint(first, 16, 32)
		if err != nil {
			return nil, fmt.Errorf("the range %q of a font cannot be read", one)
		}
		to, err := strconv.ParseUint(last, 16, 32)
		if err != nil {
			return nil, fmt.Errorf("the range %q of a font cannot be read", one)
		}
		list = append(list, span{rune(from), rune(to)})
	}
	return list, nil
}

// path is the piece that has a character; the first one if none has.
func (f *Fonts) path(r rune) string {
	for _, p := range f.pieces {
		if slices.ContainsFunc(p.ranges, func(s span) bool { return s.from <= r && r <= s.to }) {
			return p.path
		}
	}
	return f.pieces[0].path
}

func (f *Fonts) load(path string) (*font.Font, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if known := f.loaded[path]; known != nil {
		return known, nil
	}
	packed, err := fs.ReadFile(f.files, path)
	if err != nil {
		return nil, fmt.Errorf("reading the font %s: %w", path, err)
	}
	unpacked, err := unpack(packed)
	if err != nil {
		return nil, fmt.Errorf("reading the font %s: %w", path, err)
	}
	face, err := font.ParseTTF(bytes.NewReader(unpacked))
	if err != nil {
		return nil, fmt.Errorf("reading the font %s: %w", path, err)
	}
	f.loaded[path] = face.Font
	return face.Font, nil
}

// Weights of the variable fonts.
const (
	regular = 400
	bold    = 700
)

type faceKey struct {
	path   string
	weight float32
}

// faces are the faces of one document; a face is not for several at once.
type faces struct {
	fonts *Fonts
	known map[faceKey]*font.Face
	err   error // of the first font that could not be loaded
}

func (f *faces) face(r rune, weight float32) *font.Face {
	key := faceKey{f.fonts.path(r), weight}
	if known := f.known[key]; known != nil {
		return known
	}
	loaded, err := f.fonts.load(key.path)
	if err != nil {
		f.err = errors.Join(f.err, err)
		return font.NewFace(&font.Font{})
	}
	face := font.NewFace(loaded)
	face.SetVariations([]font.Variation{{Tag: opentype.MustNewTag("wght"), Value: weight}})
	f.known[key] = face
	return face
}

// weighted resolves characters to faces of one weight.
type weighted struct {
	faces  *faces
	weight float32
}

func (w weighted) ResolveFace(r rune) *font.Face { return w.faces.face(r, w.weight) }
