package plan

import (
	"fmt"
	"slices"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
)

// tailoring is what readers of a language get besides the words: by index into
// readings, the languages of their files and of their recording.
type tailoring struct {
	reading          int
	files, recording string
}

// tailored is how somebody is written to who reads a language and gets the words of a
// reading: with the files and the recording for them.
func (p *Plan) tailored(reading int, tag string) int {
	t := tailoring{reading: reading}
	if p.languagesOfFiles == nil && p.Draft.Voice.Others == nil {
		return reading
	}
	t.files = p.filesFor(tag)
	i := p.recordingFor(tag)
	if i >= 0 {
		t.recording = p.Draft.Voice.Others[i].Language
	}
	if p.languagesOfFiles == nil && i < 0 {
		return reading
	}
	if at, ok := p.tailorings[t]; ok {
		return at
	}
	r := p.readings[reading]
	r.written.Files = p.filesIn(t.files)
	if i >= 0 {
		r.written.Voice.Recording = &p.Draft.Voice.Others[i].File
		r.written.Voice.Seconds = p.Draft.Voice.Others[i].Seconds
	}
	p.tailorings[t] = p.add(r)
	return p.tailorings[t]
}

// prepareTailoring looks which languages have files of their own.
func (p *Plan) prepareTailoring() {
	p.tailorings = map[tailoring]int{}
	for _, f := range p.Draft.Files {
		if f.Language != "" && !slices.Contains(p.languagesOfFiles, f.Language) {
			p.languagesOfFiles = append(p.languagesOfFiles, f.Language)
		}
	}
}

// filesFor is the language whose files somebody gets who reads a language: their own,
// or else that of the original.
func (p *Plan) filesFor(tag string) string {
	there := func(tag string) bool { return slices.Contains(p.languagesOfFiles, tag) }
	for _, read := range []string{tag, p.Settings.Language} {
		if found, ok := copies.Lookup(read, there); ok {
			return found
		}
	}
	return ""
}

// filesIn are the files for everybody and those for a language. A picture in the text
// is for everybody.
func (p *Plan) filesIn(tag string) []attachment.File {
	shown := p.Draft.Email.Images()
	var list []attachment.File
	for _, f := range p.Draft.Files {
		if f.Language == "" || f.Language == tag || slices.Contains(shown, f.Hash) {
			list = append(list, f)
		}
	}
	return list
}

// largestFiles is how many bytes go with the email that has the largest files.
func (p *Plan) largestFiles() int64 {
	largest := attachment.Sum(p.filesIn(""))
	for _, tag := range p.languagesOfFiles {
		largest = max(largest, attachment.Sum(p.filesIn(tag)))
	}
	return largest
}

// recordingFor is the recording for somebody who reads a language, by index, or -1.
func (p *Plan) recordingFor(tag string) int {
	at := func(tag string) int {
		return slices.IndexFunc(p.Draft.Voice.Others, func(r message.Recording) bool { return r.Language == tag })
	}
	found, ok := copies.Lookup(tag, func(tag string) bool { return at(tag) >= 0 })
	if !ok {
		return -1
	}
	return at(found)
}

// voiceless reports whether no voice speaks the words of a reading, though it is not
// the original.
func (p *Plan) voiceless(reading int) bool {
	r := p.readings[reading]
	if r.written.Voice.Recording != nil || r.language == p.Settings.Language {
		return false
	}
	return slices.ContainsFunc(p.Settings.Sending.Voiceless, func(tag string) bool {
		return copies.SameLanguage(tag, r.language)
	})
}

// hears is how somebody is called who reads a language: in the original when no voice
// speaks theirs.
func (r reader) hears(c roster.Channel) int {
	if c == roster.Voice && r.voiceless {
		return 0
	}
	return r.reading
}

// whoGetsFiles says to how many people each file for a language goes.
func (p *Plan) whoGetsFiles() []string {
	if p.languagesOfFiles == nil {
		return nil
	}
	people := map[string]map[int]bool{} // recipients by the language of their files
	for _, d := range p.Deliveries {
		if d.Channel != roster.Email {
			continue
		}
		for _, f := range p.readings[d.reading].written.Files {
			if people[f.Language] == nil {
				people[f.Language] = map[int]bool{}
			}
			for _, rec := range d.Recipients {
				people[f.Language][rec] = true
			}
		}
	}
	var said []string
	for _, f := range p.Draft.Files {
		if f.Language != "" && !slices.Contains(p.Draft.Email.Images(), f.Hash) {
			said = append(said, fmt.Sprintf(
				"%s for readers of %s goes to %s.", f.Name, roster.LanguageName(f.Language),
				Count(len(people[f.Language]), "person", "people"),
			))
		}
	}
	return said
}
