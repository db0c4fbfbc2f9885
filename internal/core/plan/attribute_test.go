package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// An attribute of several dependents never says of one what is true of another.
func TestAnAttributeOfSeveralDependents(t *testing.T) {
	for _, c := range []struct {
		name, text string
		kim, lee   string // their swim tests
		want       string // "" when Ana is left out
	}{
		{"both the same", "Swim test: {{swim test}}", "due", "due", "Swim test: due"},
		{"different ones", "Swim test: {{swim test}}", "due", "passed", "Swim test: due (Kim) and passed (Lee)"},
		{"one has none", "Swim test: {{swim test}}", "due", "", ""},
		{"one has none, with other words", "Swim test: {{swim test, else not known}}", "due", "", "Swim test: due (Kim) and not known (Lee)"},
		{"one has none, and that is fine", "Swim test: {{swim test, else }}", "due", "", "Swim test: due (Kim)"},
		{"none has any", "Swim test: {{swim test, else not known}}", "", "", "Swim test: not known"},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := fieldRoster(t)
			r.At(1).Values = []roster.Value{{Attribute: 1, Value: c.kim}}
			r.At(2).Values = []roster.Value{{Attribute: 1, Value: c.lee}}
			p := plan.Make(r, message.Draft{
				Content: message.Content{Email: rich.Lines(c.text)},
				Routing: message.Routing{
					Urgency:  roster.Routine,
					Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByPeople, People: []roster.PersonID{2, 3}}}},
				},
			}, settings)
			if c.want == "" {
				assert.Equal(t, plan.FieldEmpty, reasons(p, r)["Ana"])
				return
			}
			require.Len(t, p.Deliveries, 1)
			assert.Equal(t, c.want, p.Deliveries[0].Body)
		})
	}
}

func TestDatesAreWrittenAsTheLanguageDoes(t *testing.T) {
	for tag, want := range map[string]string{
		"en": "13 June 2026", "pl": "13 czerwca 2026", "zh-Hans": "2026年6月13日", "is": "2026-06-13",
	} {
		base := fieldRoster(t).Contents
		base.Attributes = []roster.Attribute{{ID: 1, Name: "Drill on", Kind: roster.DateAttribute}}
		base.People[3].Values = []roster.Value{{Attribute: 1, Value: "2026-06-13"}}
		r, err := roster.New(base)
		require.NoError(t, err)
		s := settings
		s.Language = tag
		p := plan.Make(r, message.Draft{
			Content: message.Content{Email: rich.Lines("{{drill on}}")},
			Routing: message.Routing{
				Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByPerson, Person: 4}}},
			},
		}, s)
		assert.Equal(t, want, p.Deliveries[0].Body)
	}
}

// What fills a field in a link stays within its part of the link, in the
// formatted email, in its plain form and on paper.
func TestFieldsInLinksAreEncoded(t *testing.T) {
	r := fieldRoster(t)
	r.At(3).GivenName = `Max & "Bo"/#1`
	link := rich.Doc{Content: []rich.Node{{Type: rich.Paragraph, Content: []rich.Node{{
		Type: rich.Text, Text: "Form",
		Marks: []rich.Mark{{Type: rich.Link, Attrs: &rich.Attrs{Href: "https://example.org/form?for={{first name}}&x=1"}}},
	}}}}}
	d := message.Draft{
		Content: message.Content{Email: link},
		Routing: message.Routing{
			Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByPerson, Person: 4}}},
		},
	}
	p := plan.Make(r, d, settings)
	require.Len(t, p.Deliveries, 1)
	const encoded = "https://example.org/form?for=Max%20%26%20%22Bo%22%2F%231"
	assert.Contains(t, p.HTML(p.Deliveries[0], nil), `href="`+encoded+`&amp;x=1"`)
	assert.Equal(t, "Form ("+encoded+"&x=1)", p.Deliveries[0].Body)
	letters := p.Letters(r, []roster.PersonID{4})
	require.Len(t, letters, 1)
	assert.Equal(t, "Form ("+encoded+"&x=1)", letters[0].Body.Plain())
	assert.NotContains(t, p.Draft.Email.Plain(), "\x1f", "the draft itself stays as it was written")
}

// Control characters, tabs and the line ends of other systems do not send a
// text in the long alphabet, nor count for anything.
func TestTextsAreCleanedBeforeTheyAreSent(t *testing.T) {
	d := everybody(message.Draft{
		Content: message.Content{OwnText: true, Text: "Come\r\nto\tthe\u200b lock\x07\rnow", Email: rich.Lines("x")},
	})
	p := plan.Make(testRoster(t), d, settings)
	for _, one := range p.Deliveries {
		if one.Channel == roster.Text {
			assert.Equal(t, "Come\nto the lock\nnow", one.Body)
			assert.Equal(t, "gsm7", string(one.Count.Alphabet))
			assert.Equal(t, 1, one.Count.Parts)
		}
	}
}
