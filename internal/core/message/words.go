package message

import "strings"

// Words is all that a content says, one face after the other, as it is found.
func (d Content) Words() string {
	parts := []string{d.Subject, d.Email.Plain()}
	if d.OwnText {
		parts = append(parts, d.Text)
	}
	if d.Voice.Own {
		parts = append(parts, d.Voice.Text)
	}
	if d.Push.Own {
		parts = append(parts, d.Push.Title, d.Push.Body)
	}
	for _, f := range d.Files {
		parts = append(parts, f.Name)
	}
	return strings.Join(parts, "\n")
}
