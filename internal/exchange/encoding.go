package exchange

import (
	"bytes"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/simplifiedchinese"
	xunicode "golang.org/x/text/encoding/unicode"
)

// ErrEncoding means that a text is not in the encoding that somebody named.
var ErrEncoding = errors.New("the file is not in that encoding")

// encodings are those in which a text may be, by the names that people know.
var encodings = []struct {
	name string
	of   encoding.Encoding
}{
	{"UTF-8", encoding.Nop},
	{"UTF-16", nil}, // in the order that its mark or its zeros tell
	{"Windows-1252", charmap.Windows1252},
	{"Windows-1250", charmap.Windows1250},
	{"Windows-1251", charmap.Windows1251},
	{"Shift-JIS", japanese.ShiftJIS},
	{"GB18030", simplifiedchinese.GB18030},
}

// Encodings are the names of the encodings in which a text may be.
func Encodings() []string {
	names := make([]string, len(encodings))
	for i, e := range encodings {
		names[i] = e.name
	}
	return names
}

// decode makes a text UTF-8, by the name of its encoding, or, without one, by what it
// looks like. Line ends become line feeds.
func decode(file []byte, named string) (text []byte, name string, err error) {
	if len(bytes.TrimSpace(bytes.TrimPrefix(file, utf8BOM))) == 0 {
		return nil, "", ErrEmpty
	}
	if name = named; name == "" {
		name = looksLike(file)
	}
	text, err = decodeAs(file, name)
	if err != nil {
		return nil, name, err
	}
	if bytes.IndexByte(text, 0) >= 0 {
		return nil, name, ErrNotCSV
	}
	if len(bytes.TrimSpace(text)) == 0 {
		return nil, name, ErrEmpty
	}
	if bytes.IndexByte(text, '\n') < 0 { // as old programs of the Mac write
		text = bytes.ReplaceAll(text, []byte("\r"), []byte("\n"))
	}
	return text, name, nil
}

func decodeAs(file []byte, name string) ([]byte, error) {
	switch name {
	case "UTF-8":
		file = bytes.TrimPrefix(file, utf8BOM)
		if !utf8.Valid(file) {
			return nil, fmt.Errorf("%w: it is no UTF-8", ErrEncoding)
		}
		return file, nil
	case "UTF-16":
		return decode16(file)
	}
	at := slices.IndexFunc(encodings, func(e struct {
		name string
		of   encoding.Encoding
	}) bool {
		return e.name == name
	})
	if at < 0 {
		return nil, fmt.Errorf("%w: %q is none of %s", ErrEncoding, name, strings.Join(Encodings(), ", "))
	}
	text, err := encodings[at].of.NewDecoder().Bytes(file)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrEncoding, err)
	}
	return text, nil
}

func decode16(file []byte) ([]byte, error) {
	order := xunicode.LittleEndian
	even, odd := zeros(file)
	if even > odd || bytes.HasPrefix(file, []byte("\xfe\xff")) {
		order = xunicode.BigEndian
	}
	text, err := xunicode.UTF16(order, xunicode.UseBOM).NewDecoder().Bytes(file)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrEncoding, err)
	}
	return bytes.TrimPrefix(text, utf8BOM), nil
}

// sniffed is how much of a file is looked at to find its encoding.
const sniffed = 256 << 10

// zeros counts the zero bytes at even and at odd places.
func zeros(file []byte) (even, odd int) {
	for i, b := range file[:min(len(file), sniffed)] {
		switch {
		case b != 0:
		case i%2 == 0:
			even++
		default:
			odd++
		}
	}
	return even, odd
}

// looksLike is the encoding of a text: by its mark, by its zeros, as UTF-8 where it is
// valid, and else by what the text becomes.
func looksLike(file []byte) string {
	if bytes.HasPrefix(file, []byte("\xff\xfe")) || bytes.HasPrefix(file, []byte("\xfe\xff")) {
		return "UTF-16"
	}
	even, odd := zeros(file)
	n := min(len(file), sniffed) / 2
	if len(file)%2 == 0 && even+odd > max(3, n/8) && (even > 10*odd || odd > 10*even) {
		return "UTF-16"
	}
	if utf8.Valid(file) {
		return "UTF-8"
	}
	return byText(file[:min(len(file), sniffed)])
}

// byText compares what a text becomes in each encoding of one or two bytes. The
// first of the best wins.
func byText(file []byte) string {
	best, most := "Windows-1252", -1.0
	for _, e := range encodings {
		if e.name == "UTF-8" || e.of == nil {
			continue
		}
		text, err := e.of.NewDecoder().Bytes(file)
		if err != nil {
			continue
		}
		if fit := fits(e.name, file, []rune(string(text))); fit > most {
			best, most = e.name, fit
		}
	}
	return best
}

// fits says how well a text fits an encoding, from 0 to 1.
func fits(name string, file []byte, text []rune) float64 {
	switch name {
	case "Shift-JIS":
		return eastern(text, unicode.Hiragana, unicode.Katakana, unicode.Han) * usualBytes(file, 0x81, 0x97)
	case "GB18030":
		return eastern(text, unicode.Han) * usualBytes(file, 0xb0, 0xd7)
	}
	foreign := map[rune]int{} // in lower case
	all := 0
	for i, r := range text {
		if r == utf8.RuneError || unicode.IsControl(r) && !unicode.IsSpace(r) {
			return 0
		}
		if r < utf8.RuneSelf || neutral(text, i) {
			continue
		}
		all++
		if !unicode.Is(unicode.Cyrillic, r) || !latinAt(text, i-1) && !latinAt(text, i+1) {
			foreign[unicode.ToLower(r)]++
		}
	}
	if all == 0 {
		return 0.5 // punctuation alone tells nothing
	}
	best := 0.9 * covered(foreign, strings.Join(alphabets[name], "")) // names of several languages
	for _, alphabet := range alphabets[name] {
		best = max(best, covered(foreign, alphabet))
	}
	return best / float64(all)
}

func covered(letters map[rune]int, alphabet string) float64 {
	n := 0
	for r, times := range letters {
		if strings.ContainsRune(alphabet, r) {
			n += times
		}
	}
	return float64(n)
}

// neutral reports whether a character is one that texts of every language have: signs
// only where they touch no letter.
func neutral(text []rune, i int) bool {
	letter := func(i int) bool { return i >= 0 && i < len(text) && unicode.IsLetter(text[i]) }
	if strings.ContainsRune("£§©®°", text[i]) {
		return !letter(i-1) && !letter(i+1)
	}
	return strings.ContainsRune("“”‘’„‚«»‹›–—…•€·\u00a0№", text[i])
}

func latinAt(text []rune, i int) bool {
	return i >= 0 && i < len(text) && text[i] < utf8.RuneSelf && unicode.IsLetter(text[i])
}

// alphabets are the letters beyond ASCII of the languages that an encoding is for, one
// language after the other.
var alphabets = map[string][]string{
	"Windows-1252": {
		"äöüßé", "àâæçéèêëîïôœùûüÿñ", "áéíñóúü¿¡ªº", "áâãàçéêíóôõúü", "àèéìíòóùú", "æøåéöäü", "åäöéü", "áðéíóúýþæö", "éèëïöüáó",
	},
	"Windows-1250": {
		"ąćęłńóśźż", "áčďéěíňóřšťúůýž", "áäčďéíĺľňóôŕšťúýž", "áéíóöőúüű", "čćđšž", "ăâîşţ",
	},
	"Windows-1251": {
		"абвгдеёжзийклмнопрстуфхцчшщъыьэюя", "абвгґдеєжзиіїйклмнопрстуфхцчшщьюя’", "абвгдежзийклмнопрстуфхцчшщъьюя",
		"абвгдђежзијклљмнњопрстћуфхцчџш",
	},
}

// eastern is the part of the characters beyond ASCII that are of some scripts or of
// their punctuation. One that touches a Latin letter was made of that letter.
func eastern(text []rune, scripts ...*unicode.RangeTable) float64 {
	all, good := 0, 0
	for i, r := range text {
		if r < utf8.RuneSelf {
			continue
		}
		all++
		halfWidth := 0xff61 <= r && r <= 0xff9f
		usual := unicode.In(r, scripts...) && !halfWidth || 0x3000 <= r && r <= 0x303f || 0xff01 <= r && r <= 0xff60
		if usual && !latinAt(text, i-1) && !latinAt(text, i+1) {
			good++
		}
	}
	if all == 0 {
		return 0
	}
	return float64(good) / float64(all)
}

// usualBytes is the part of a text's pairs of bytes that begin with one of the usual
// characters: those of the first level of their standards (JIS X 0208, GB 2312).
func usualBytes(file []byte, from, to byte) float64 {
	pairs, usual := 0, 0
	for i := 0; i < len(file); i++ {
		if file[i] < utf8.RuneSelf {
			continue
		}
		pairs++
		if from <= file[i] && file[i] <= to || file[i] == 0xa1 || file[i] == 0xa3 {
			usual++
		}
		i++
	}
	if pairs == 0 {
		return 0
	}
	return float64(usual) / float64(pairs)
}
