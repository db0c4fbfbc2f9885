// Package lines cuts what a message says into the lines that are translated one by
// one, and puts a message together again from lines in another language.
package lines

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"upperlantern/internal/core/message"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// Line is a sentence or a block of a message. Its places stand in the text as
// numbers from 1: {1} for a field, {2}…{/2} around what is formatted.
type Line struct {
	Text   string        `json:"text"`
	Places []Placeholder `json:"places"`
}

// Placeholder is what a number in a line stands for.
type Placeholder struct {
	Kind Kind   `json:"kind" enum:"field,bold,italic,link,braces"`
	Name string `json:"name,omitempty" doc:"Of a field; where a link leads; what stands in braces"`

	raw  string // as it is written, for putting it back
	mark rich.Mark
}

// Kind is what a place is.
type Kind string

// Kinds of places. Braces are a number in braces that somebody typed.
const (
	Field  Kind = "field"
	Bold   Kind = rich.Bold
	Italic Kind = rich.Italic
	Link   Kind = rich.Link
	Braces Kind = "braces"
)

// Encloses reports whether a place is around words, and so has an end.
func (k Kind) Encloses() bool { return k == Bold || k == Italic || k == Link }

// Key names a line by its words and its fields, in 32 hexadecimal digits.
func (l Line) Key() string {
	said := l.Text
	for i, p := range l.Places {
		if !p.Kind.Encloses() {
			said += fmt.Sprintf("\x1f%d %s", i+1, p.Name)
		}
	}
	sum := sha256.Sum256([]byte(said))
	return hex.EncodeToString(sum[:16])
}

// Face is where a line stands.
type Face string

// Faces of a message, and what its unit adds.
const (
	Subject   Face = "subject"
	Email     Face = "email"
	Text      Face = "text"
	Call      Face = "call"
	Push      Face = "push"
	Question  Face = "question"
	Signature Face = "signature"
)

// Faces lists them all.
var Faces = []Face{Subject, Email, Text, Call, Push, Question, Signature}

// Written is what a message says and how its unit signs.
type Written struct {
	message.Content
	Signature roster.Signature
	Language  string // in which it is written, BCP 47
}

// Standing is a line and where it stands.
type Standing struct {
	Line
	Faces []Face
}

// Cut lists the lines of a message in their order, each once.
func Cut(w Written) []Standing {
	var list []Standing
	at := map[string]int{}
	Put(w, func(face Face, l Line) (string, bool) {
		key := l.Key()
		i, known := at[key]
		if !known {
			i = len(list)
			at[key], list = i, append(list, Standing{Line: l})
		}
		if !slices.Contains(list[i].Faces, face) {
			list[i].Faces = append(list[i].Faces, face)
		}
		return "", false
	})
	return list
}

// Say is how a line is said in another language; false leaves it as it is.
type Say func(Face, Line) (target string, ok bool)

// Put is the message with each line said as say does. A face that follows another
// one goes on following it.
func Put(w Written, say Say) Written {
	p := putter{say: say, language: w.Language}
	w.Subject = p.plain(Subject, w.Subject)
	w.Email = p.document(Email, w.Email)
	if w.OwnText {
		w.Text = p.plain(Text, w.Text)
	}
	if w.Voice.Own && w.Voice.Recording == nil {
		w.Voice.Text = p.plain(Call, w.Voice.Text)
	}
	if w.Push.Own {
		w.Push.Title, w.Push.Body = p.plain(Push, w.Push.Title), p.plain(Push, w.Push.Body)
	}
	w.Question = w.Question.Map(func(words string) string { return p.plain(Question, words) })
	w.Signature.Prefix = p.plain(Signature, w.Signature.Prefix)
	w.Signature.Footer = p.plain(Signature, w.Signature.Footer)
	return w
}

type putter struct {
	say      Say
	language string
	face     Face
}

func (p *putter) plain(face Face, text string) string {
	return p.document(face, rich.Lines(text)).Plain()
}

func (p *putter) document(face Face, d rich.Doc) rich.Doc {
	p.face = face
	return d.MapLines(p.block)
}

// block says the words of one line of the document, sentence by sentence.
func (p *putter) block(nodes []rich.Node) []rich.Node {
	var out builder
	var pieces []atom
	flush := func() {
		p.sentences(&out, pieces)
		pieces = pieces[:0]
	}
	for _, n := range nodes {
		if n.Type == rich.Text {
			pieces = append(pieces, atoms(n)...)
			continue
		}
		flush()
		out.nodes = append(out.nodes, n)
	}
	flush()
	return out.nodes
}

// sentences says a block without breaks.
func (p *putter) sentences(out *builder, pieces []atom) {
	spans := split(said(pieces), p.language)
	for i, s := range spans {
		own := within(pieces, s.from, s.to)
		line, places := lineOf(own)
		target, ok := line.Text, s.words && len(places) > 0
		if worded(line.Text) {
			target, ok = p.say(p.face, line)
		}
		p.others(places)
		if !ok {
			out.atoms(own)
			continue
		}
		out.target(target, places)
		if i+1 < len(spans) && !spans[i+1].words && closesWide(target) && !closesWide(line.Text) {
			spans[i+1].to = spans[i+1].from // such a full stop has its space in itself
		}
	}
}

// others says the words that a field has for when nothing fills it.
func (p *putter) others(places []Placeholder) {
	for i, place := range places {
		f := fieldOf(place)
		if place.Kind != Field || !worded(f.Else) {
			continue
		}
		if words, ok := p.say(p.face, Line{Text: f.Else, Places: []Placeholder{}}); ok {
			f.Else = words
			places[i].raw = f.String()
		}
	}
}

// closesWide reports whether a text ends with a mark as wide as a letter of its script.
func closesWide(text string) bool {
	r := []rune(text)
	return len(r) > 0 && strings.ContainsRune("。！？；：」』）", r[len(r)-1])
}

var (
	placeMark = regexp.MustCompile(`\{(/?)([0-9]{1,3})\}`)
	address   = regexp.MustCompile(`^(https?://\S+|\S+@\S+\.\S+|www\.\S+)$`)
)

// worded reports whether there is something to translate.
func worded(text string) bool {
	text = strings.TrimSpace(placeMark.ReplaceAllString(text, ""))
	return strings.ContainsFunc(text, unicode.IsLetter) && !address.MatchString(text)
}
