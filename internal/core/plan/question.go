package plan

import (
	"fmt"
	"html"
	"strconv"
	"strings"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/phrase"
)

// choices are the answers to choose from, in the language of the words; none without a
// question.
func (r *renderer) choices() []string {
	if !r.written.Question.Asks() {
		return nil
	}
	list := make([]string, len(r.written.Question.Choices))
	for i, c := range r.written.Question.Choices {
		list[i] = c.Words
	}
	return list
}

// listed is a body with the answers beneath it, by number, and how to give one.
func (r *renderer) listed(body string, how phrase.Key) string {
	choices := r.choices()
	if len(choices) == 0 || body == "" {
		return body
	}
	said := []string{strings.TrimRight(body, "\n"), ""}
	for i, words := range choices {
		said = append(said, fmt.Sprintf("%d %s", i+1, words))
	}
	return strings.Join(append(said, phrase.In(r.language).Say(how)), "\n")
}

// pressed is what a call says, with the key of each answer.
func (r *renderer) pressed(body string) string {
	choices := r.choices()
	if len(choices) == 0 || body == "" {
		return body
	}
	said := []string{strings.TrimRight(body, "\n")}
	for i, words := range choices {
		said = append(said, phrase.In(r.language).Say("question press", "key", strconv.Itoa(i+1), "answer", words))
	}
	return strings.Join(said, "\n")
}

// buttons are the answers of a formatted email. Where they lead is put in when it leaves.
func (r *renderer) buttons() string {
	choices := r.choices()
	if len(choices) == 0 {
		return ""
	}
	var b strings.Builder
	fmt.Fprintf(&b, "<p>%s</p>\n<p>", html.EscapeString(phrase.In(r.language).Say("question mail")))
	for i, words := range choices {
		fmt.Fprintf(&b, `<a href="%s%d" style="display:inline-block;margin:0 8px 8px 0;padding:9px 16px;border:1px solid #1c6b77;`+
			`border-radius:4px;color:#0e3d4a;text-decoration:none">%d %s</a>`, delivery.AnswerPlace, i+1, i+1, html.EscapeString(words))
	}
	b.WriteString("</p>\n")
	return b.String()
}
