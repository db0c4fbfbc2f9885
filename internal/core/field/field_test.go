package field_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/field"
)

func fill(values map[field.Name]string) func(field.Field) string {
	return func(f field.Field) string { return values[f.Name] }
}

func TestFill(t *testing.T) {
	values := fill(map[field.Name]string{field.FirstName: "Rania", field.Dependents: "Sami and Lina"})
	for _, c := range []struct{ name, text, want, missing string }{
		{"plain", "No fields at all", "No fields at all", ""},
		{"a field", "Dear {{first name}},", "Dear Rania,", ""},
		{"spaces and case do not matter", "Dear {{  First   Name }}", "Dear Rania", ""},
		{"two fields", "{{first name}}: {{dependents}}", "Rania: Sami and Lina", ""},
		{"nothing to fill it", "Dear {{last name}}", "Dear ", "last name"},
		{"other words", "Dear {{last name, else friend}}", "Dear friend", ""},
		{"other words are not needed", "Dear {{first name, else friend}}", "Dear Rania", ""},
		{"empty other words", "Dear{{last name, else }}.", "Dear.", ""},
		{"a brace that opens nothing", "Bring {{ one drink", "Bring {{ one drink", ""},
		{"a brace that closes nothing", "So }} it is", "So }} it is", ""},
		{"a brace before a field", "{{ {{first name}}", "{{ Rania", ""},
		{"single braces", "{first name}", "{first name}", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, missing := field.Parse(c.text).Fill(values)
			assert.Equal(t, c.want, got)
			assert.Equal(t, c.missing, string(missing))
		})
	}
}

func known(n field.Name) bool { return slices.Contains(field.Names, n) }

func TestUnknown(t *testing.T) {
	assert.Equal(t, []string{"shoe size", ""}, field.Parse(
		"{{shoe size}} {{first name}} {{Shoe size}} {{}}").Unknown(known))
	assert.Empty(t, field.Parse("{{dependents, else your rower}}").Unknown(known))
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"", "{{}}", "{{first name, else }}", "a{{b}}c{{", "{{{{}}}}", "}}{{"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		parsed := field.Parse(text)
		parsed.Unknown(known)
		parsed.Fill(func(field.Field) string { return "x" })
	})
}

func TestFieldsInLinks(t *testing.T) {
	link := field.Parse(field.InLink("https://example.org/{{group, else no group}}?for={{first name}}"))
	assert.Empty(t, link.Unknown(known))
	filled, missing := link.Fill(func(f field.Field) string {
		assert.True(t, f.InLink)
		return map[field.Name]string{field.FirstName: field.Encode("Żaneta & Bo/#1")}[f.Name]
	})
	assert.Empty(t, missing)
	assert.Equal(t, "https://example.org/no%20group?for=%C5%BBaneta%20%26%20Bo%2F%231", filled)
}
