package message

import (
	"bytes"
	"encoding/json"
	"regexp"
	"slices"
	"strings"

	"upperlantern/internal/core/roster"
)

// Content is what a draft says, without whom it is for and how it goes out.
func (d Draft) Content() Draft {
	return Draft{
		Urgency: roster.Routine, Subject: d.Subject, Email: d.Email, Files: d.Files, OwnText: d.OwnText, Text: d.Text,
		Voice: d.Voice, Push: d.Push,
	}
}

// blank is a place in a template that is filled when it is used: {{ask: day}}.
var blank = regexp.MustCompile(`(?i)\{\{\s*ask:\s*([^{}]+?)\s*\}\}`)

// AskPrefix begins the name of a blank.
const AskPrefix = "ask:"

// Blanks are the names of the places that are to be filled, in order, each once.
func (d Draft) Blanks() []string {
	var names []string
	for _, text := range []string{
		d.Subject, d.Email.Plain(), d.Text, d.Voice.Text, d.Push.Title, d.Push.Body, d.Push.Link,
	} {
		for _, m := range blank.FindAllStringSubmatch(text, -1) {
			if name := strings.ToLower(m[1]); !slices.Contains(names, name) {
				names = append(names, name)
			}
		}
	}
	return names
}

// FillBlanks puts values, by name in lower case, into the places for them.
// What has no value stays.
func (d Draft) FillBlanks(values map[string]string) Draft {
	fill := func(text string) string {
		return blank.ReplaceAllStringFunc(text, func(place string) string {
			name := strings.ToLower(blank.FindStringSubmatch(place)[1])
			if v := strings.TrimSpace(values[name]); v != "" {
				return v
			}
			return place
		})
	}
	for _, text := range []*string{&d.Subject, &d.Text, &d.Voice.Text, &d.Push.Title, &d.Push.Body, &d.Push.Link} {
		*text = fill(*text)
	}
	d.Email = d.Email.Map(fill)
	return d
}

// fieldWords name what a draft holds, by its name in JSON.
var fieldWords = map[string]string{
	"urgency": "the urgency", "audience": "who gets it", "subject": "the subject", "email": "the email",
	"files":   "the files",
	"ownText": "the text", "text": "the text", "voice": "the call", "push": "the push", "from": "the sender",
	"replyTo": "where replies go", "steps": "the steps",
	"firstOnly": "the steps", "moveOn": "the steps", "unwished": "the steps", "spare": "who is spared",
	"sendAt": "the time", "times": "the time", "spread": "the time",
	"reason": "the reason", "practice": "the exercise",
}

// Merge joins two changes of the same draft, field by field. Clash names, in
// words, what both changed differently; merged then holds what mine says.
func Merge(base, mine, theirs Draft) (merged Draft, clash []string, err error) {
	var parts [3]map[string]json.RawMessage
	for i, d := range []Draft{base, mine, theirs} {
		text, err := json.Marshal(d)
		if err == nil {
			err = json.Unmarshal(text, &parts[i])
		}
		if err != nil {
			return merged, nil, err
		}
	}
	b, m, t := parts[0], parts[1], parts[2]
	for key := range fieldWords {
		if bytes.Equal(m[key], t[key]) || bytes.Equal(t[key], b[key]) {
			continue // nobody else changed it
		}
		if !bytes.Equal(m[key], b[key]) {
			if words := fieldWords[key]; !slices.Contains(clash, words) {
				clash = append(clash, words)
			}
			continue
		}
		if t[key] == nil {
			delete(m, key)
		} else {
			m[key] = t[key]
		}
	}
	slices.Sort(clash)
	text, err := json.Marshal(m)
	if err == nil {
		err = json.Unmarshal(text, &merged)
	}
	return merged, clash, err
}
