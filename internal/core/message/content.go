package message

import (
	"bytes"
	"encoding/json"
	"reflect"
	"regexp"
	"slices"
	"strings"
)

// blank is a place in a template that is filled when it is used: {{ask: day}}.
var blank = regexp.MustCompile(`(?i)\{\{\s*ask:\s*([^{}]+?)\s*\}\}`)

// AskPrefix begins the name of a blank.
const AskPrefix = "ask:"

// Blanks are the names of the places that are to be filled, in order, each once.
func (d Content) Blanks() []string {
	var names []string
	for _, text := range append([]string{
		d.Subject, d.Email.Plain(), d.Text, d.Voice.Text, d.Push.Title, d.Push.Body, d.Push.Link,
	}, d.Question.words()...) {
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
func (d Content) FillBlanks(values map[string]string) Content {
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
	d.Email, d.Question = d.Email.Map(fill), d.Question.Map(fill)
	return d
}

// part is a field of a draft, by its name in JSON, and what it is called.
type part struct{ name, words string }

// parts are all fields of a draft, derived from its types so that none can be
// forgotten.
var parts = slices.Concat(partsOf[Content](), partsOf[Routing]())

func partsOf[T any]() []part {
	t := reflect.TypeFor[T]()
	list := make([]part, t.NumField())
	for i := range list {
		name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
		list[i] = part{name, t.Field(i).Tag.Get("words")}
	}
	return list
}

// Merge joins two changes of the same draft, field by field. Clash names, in
// words, what both changed differently; merged then holds what mine says.
func Merge(base, mine, theirs Draft) (merged Draft, clash []string, err error) {
	var fields [3]map[string]json.RawMessage
	for i, d := range []Draft{base, mine, theirs} {
		text, err := json.Marshal(d)
		if err == nil {
			err = json.Unmarshal(text, &fields[i])
		}
		if err != nil {
			return merged, nil, err
		}
	}
	b, m, t := fields[0], fields[1], fields[2]
	for _, p := range parts {
		switch {
		case bytes.Equal(m[p.name], t[p.name]), bytes.Equal(t[p.name], b[p.name]): // nobody else changed it
		case !bytes.Equal(m[p.name], b[p.name]):
			clash = append(clash, p.words)
		case t[p.name] == nil:
			delete(m, p.name)
		default:
			m[p.name] = t[p.name]
		}
	}
	slices.Sort(clash)
	text, err := json.Marshal(m)
	if err == nil {
		err = json.Unmarshal(text, &merged)
	}
	return merged, slices.Compact(clash), err
}
