package store

import (
	"encoding/json"
	"fmt"
)

// form is how one kind of document is kept as JSON. Each document says in which
// version of its form it is; one that says nothing is of the first. A change of form
// adds a step, and what is kept is brought on as it is read.
type form struct {
	name  string
	steps []func(json.RawMessage) (json.RawMessage, error) // from each version to the next
}

// The forms of all documents that are more than a list.
var (
	draftForm    = form{name: "a draft"}
	contentForm  = form{name: "a content"}
	sheetForm    = form{name: "the sheet of a person"}
	ruleForm     = form{name: "a rule"}
	settingsForm = form{name: "the organisation's settings"}
	carrierForm  = form{name: "a carrier"}
)

// document is what stands in the database.
type document struct {
	Version int             `json:"version"`
	Of      json.RawMessage `json:"of"`
}

func (f form) current() int { return 1 + len(f.steps) }

// write is a document in the present version of its form.
func (f form) write(v any) (string, error) {
	of, err := json.Marshal(v)
	if err != nil {
		return "", fmt.Errorf("writing %s: %w", f.name, err)
	}
	text, err := json.Marshal(document{Version: f.current(), Of: of})
	return string(text), err
}

// read reads a document of any version up to the present one.
func (f form) read(text string, into any) error {
	d, err := f.open(text)
	if err != nil {
		return fmt.Errorf("reading %s: %w", f.name, err)
	}
	if d.Version > f.current() {
		return fmt.Errorf("reading %s: it is of version %d, and this program knows %d", f.name, d.Version, f.current())
	}
	for _, step := range f.steps[d.Version-1:] {
		if d.Of, err = step(d.Of); err != nil {
			return fmt.Errorf("bringing %s on from an earlier version: %w", f.name, err)
		}
	}
	if err := json.Unmarshal(d.Of, into); err != nil {
		return fmt.Errorf("reading %s: %w", f.name, err)
	}
	return nil
}

// open takes a document out of what stands in the database.
func (f form) open(text string) (document, error) {
	var d document
	if text == "" || text[0] != '{' {
		return document{Version: 1, Of: json.RawMessage(text)}, nil
	}
	if err := json.Unmarshal([]byte(text), &d); err != nil {
		return d, err
	}
	if d.Version < 1 || d.Of == nil {
		return document{Version: 1, Of: json.RawMessage(text)}, nil
	}
	return d, nil
}
