package plan

import (
	"slices"
	"strings"

	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
)

// CopyUse is a copy of the message, and whether those who read it get it.
type CopyUse struct {
	Language string
	copies.Standing
	Used bool

	reading int // how those who read it are written to, by index into readings
}

// reader is how those who read a language are written to, by index into readings, the
// copy that lookup finds for them, by index into Copies, or -1, and whether no voice
// speaks it.
type reader struct {
	reading, copy int
	voiceless     bool
}

// prepare makes the ways in which the message is written: the original first, then
// one for each copy that is used or stands beneath the original.
func (p *Plan) prepare() {
	written := p.written()
	p.readings = []renderer{p.renderer(written, p.Settings.Language)}
	p.prepareTailoring()
	if len(p.Settings.Copies) == 0 {
		return
	}
	p.Lines = lines.Cut(written)
	doubtful := p.Settings.Doubtful
	if doubtful == nil {
		doubtful = copies.Examiner{From: p.Settings.Language, Terms: p.Settings.Terms}.Doubtful
	}
	for _, c := range p.Settings.Copies {
		use := CopyUse{Language: c.Language, Standing: c.Standing(p.Lines, doubtful)}
		use.Used = use.Lines > 0 && use.State != copies.Incomplete &&
			(use.State == copies.Checked || p.Draft.Copies.Unchecked(p.Draft.Urgency))
		switch {
		case use.Used:
			said := p.renderer(spoken(lines.Put(written, c.Say)), c.Language)
			said.under(&p.readings[0], p.Draft.Copies.Beneath)
			use.reading = p.add(said)
		case use.Filled > 0 && p.Draft.Copies.Otherwise == message.FilledLines:
			filled := p.renderer(filledOnly(written, c), c.Language)
			original := p.readings[0]
			original.under(&filled, []roster.Channel{roster.Email})
			use.reading = p.add(original)
		}
		p.Copies = append(p.Copies, use)
	}
}

// written is the message as it is cut into lines.
func (p *Plan) written() lines.Written {
	return lines.Written{Content: p.Draft.Content, Signature: p.Settings.Signature, Language: p.Settings.Language}
}

func (p *Plan) add(r renderer) int {
	p.readings = append(p.readings, r)
	return len(p.readings) - 1
}

// spoken lets a copy be read aloud where the original is a recording.
func spoken(w lines.Written) lines.Written {
	if w.TextBody() != "" {
		w.Voice.Recording, w.Voice.Seconds = nil, 0
	}
	return w
}

// filledOnly is the main text in a copy's language, as far as it is filled.
func filledOnly(w lines.Written, c copies.Copy) lines.Written {
	filled := lines.Put(w, func(face lines.Face, l lines.Line) (string, bool) {
		said, _ := c.Say(face, l)
		return said, true
	})
	email := rich.Doc{Content: slices.DeleteFunc(filled.Email.Content, func(n rich.Node) bool {
		return n.Type != rich.Image && rich.Doc{Content: []rich.Node{n}}.Empty()
	})}
	return lines.Written{Content: message.Content{Email: email}, Language: c.Language}
}

// readingOf is how somebody who reads a language is written to.
func (p *Plan) readingOf(tag string) reader {
	if found, ok := p.readers[tag]; ok {
		return found
	}
	out := reader{copy: -1}
	if !reads(tag, p.Settings.Language) {
		at := func(found string) int {
			return slices.IndexFunc(p.Copies, func(c CopyUse) bool { return c.Language == found })
		}
		if found, ok := copies.Lookup(tag, func(tag string) bool { return at(tag) >= 0 }); ok {
			out.copy = at(found)
			out.reading = p.Copies[out.copy].reading
		}
	}
	out.reading = p.tailored(out.reading, tag)
	out.voiceless = p.voiceless(out.reading)
	p.readers[tag] = out
	return out
}

// CopyOf is the copy that lookup finds for a language, used or not; "" for none.
func (p *Plan) CopyOf(tag string) string {
	if at := p.readingOf(tag).copy; at >= 0 {
		return p.Copies[at].Language
	}
	return ""
}

// CopyFor is the copy that somebody who reads a language gets, or "" for the original.
func (p *Plan) CopyFor(tag string) string { return p.copyOf(p.readingOf(tag)) }

// copyOf is the copy that a reader gets, or "" for the original.
func (p *Plan) copyOf(r reader) string {
	at := r.copy
	if at < 0 || !p.Copies[at].Used {
		return ""
	}
	return p.Copies[at].Language
}

// Texts are the texts that readers of a copy get.
type Texts struct {
	Texts    int
	Most     int // parts of the longest
	Alphabet segment.Alphabet
	Cost     money.Amount
}

// TextsIn are the texts in the language of a copy that is used.
func (p *Plan) TextsIn(c CopyUse) Texts {
	t := Texts{Alphabet: segment.GSM7}
	for _, d := range p.Deliveries {
		if !c.Used || d.Channel != roster.Text || p.readings[d.reading].language != c.Language {
			continue
		}
		t.Texts++
		t.Most = max(t.Most, d.Count.Parts)
		t.Cost += d.Cost
		if d.Count.Alphabet == segment.UCS2 {
			t.Alphabet = segment.UCS2
		}
	}
	return t
}

// CopiesSeen says which copies are used and how far they are, for comparing a plan
// with the one that was checked.
func (p *Plan) CopiesSeen() string {
	said := make([]string, len(p.Copies))
	for i, c := range p.Copies {
		said[i] = c.Language + " " + string(c.State)
		if !c.Used {
			said[i] += " not used"
		}
	}
	return strings.Join(said, ", ")
}

// termed is a name of the organisation in a language, as the glossary has it.
func (s Settings) termed(name, tag string) string {
	for _, t := range s.Terms {
		if _, there := copies.Lookup(tag, func(at string) bool { return at == t.Language }); there && t.Term == name {
			return t.Says
		}
	}
	return name
}

// direction is in which a language is written, as HTML says it.
func direction(tag string) string {
	if phrase.RightToLeft(tag) {
		return "rtl"
	}
	return "ltr"
}
