package typeset

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/font/opentype"
)

// families are tried in order for a character.
var families = []string{"Noto Sans Variable", "Noto Sans Arabic Variable", "Noto Sans SC Variable"}

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
	family int
	path   string
	ranges []span
}

type span struct{ from, to rune }

var (
	fontFace = regexp.MustCompile(`@font-face\{font-family:([^;]+);[^}]*src:url\(/([^)]+)\)[^}]*unicode-range:([^;}]+)`)

	// ErrNoFonts means that the interface was not built.
	ErrNoFonts = errors.New("the fonts of the interface are not here")
)

// OpenFonts finds the fonts that the built interface names in its styles.
func OpenFonts(files fs.FS) (*Fonts, error) {
	if files == nil {
		return nil, ErrNoFonts
	}
	sheets, err := fs.Glob(files, "assets/*.css")
	if err != nil {
		return nil, err
	}
	f := &Fonts{files: files, loaded: map[string]*font.Font{}}
	for _, path := range sheets {
		Style, err := fs.ReadFile(files, path)
		if err != nil {
			return nil, fmt.Errorf("reading %s: %w", path, err)
		}
		for _, m := range fontFace.FindAllStringSubmatch(string(Style), -1) {
			family := slices.Index(families, strings.Trim(m[1], `"'`))
			if family < 0 {
				continue
			}
			ranges, err := spans(m[3])
			if err != nil {
				return nil, fmt.Errorf("%s: %w", path, err)
			}
			f.pieces = append(f.pieces, piece{family, m[2], ranges})
		}
	}
	if len(f.pieces) == 0 {
		return nil, ErrNoFonts
	}
	slices.SortStableFunc(f.pieces, func(a, b piece) int { return a.family - b.family })
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
