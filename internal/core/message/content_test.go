package message_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

func TestBlanksAreFilledWhenATemplateIsUsed(t *testing.T) {
	d := message.Draft{
		Subject: "Outing on {{ask: Day}}", OwnText: true, Text: "{{ask:day}}, {{ask: place}}",
		Email: rich.Doc{Content: []rich.Node{{
			Type: rich.BulletList, Content: []rich.Node{{Type: rich.ListItem, Content: []rich.Node{
				{Type: rich.Paragraph, Content: []rich.Node{{Type: rich.Text, Text: "{{first name}}: {{ask: day}} at {{ask: time}}"}}},
			}}}}}},
	}
	assert.Equal(t, []string{"day", "time", "place"}, d.Blanks())
	filled := d.FillBlanks(map[string]string{"day": "Monday", "time": " 08:30 ", "other": "x"})
	assert.Equal(t, "Outing on Monday", filled.Subject)
	assert.Equal(t, "- {{first name}}: Monday at 08:30", filled.Email.Plain())
	assert.Equal(t, "Monday, {{ask: place}}", filled.Text, "what was not filled stays")
	assert.Contains(t, d.Email.Plain(), "{{ask: day}}", "the template itself is not touched")
}

func TestContentIsWithoutTheAudience(t *testing.T) {
	at := time.Now()
	d := message.Draft{
		Urgency: roster.Emergency, Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByGroup, Group: 1}}},
		Subject: "S",
		Email:   rich.Lines("E"), SendAt: &at, Reason: "R",
	}
	assert.Equal(t, message.Draft{Urgency: roster.Routine, Subject: "S", Email: rich.Lines("E")}, d.Content())
}

func TestMerge(t *testing.T) {
	base := message.Draft{Urgency: roster.Routine, Subject: "Outing", Email: rich.Lines("Come")}
	with := func(change func(*message.Draft)) message.Draft {
		d := base
		change(&d)
		return d
	}
	at := time.Date(2026, 11, 25, 18, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name         string
		mine, theirs message.Draft
		want         message.Draft
		clash        []string
	}{
		{"only they changed it", base, with(func(d *message.Draft) { d.Subject = "Moved" }), with(func(d *message.Draft) { d.Subject = "Moved" }), nil},
		{"each another thing", with(func(d *message.Draft) { d.Email = rich.Lines("Mine") }), with(func(d *message.Draft) { d.SendAt = &at }),
			with(func(d *message.Draft) { d.Email, d.SendAt = rich.Lines("Mine"), &at }), nil},
		{"both the same", with(func(d *message.Draft) { d.Subject = "Moved" }), with(func(d *message.Draft) { d.Subject = "Moved" }), with(func(d *message.Draft) { d.Subject = "Moved" }), nil},
		{"both differently", with(func(d *message.Draft) { d.Subject = "Mine" }), with(func(d *message.Draft) { d.Subject, d.Spread = "Theirs", 5 }),
			with(func(d *message.Draft) { d.Subject, d.Spread = "Mine", 5 }), []string{"the subject"}},
		{"the text, twice", with(func(d *message.Draft) { d.OwnText, d.Text = true, "a" }), with(func(d *message.Draft) { d.OwnText, d.Text = true, "b" }),
			with(func(d *message.Draft) { d.OwnText, d.Text = true, "a" }), []string{"the text"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			merged, clash, err := message.Merge(base, c.mine, c.theirs)
			require.NoError(t, err)
			assert.Equal(t, c.want, merged)
			assert.Equal(t, c.clash, clash)
		})
	}
}

// Whoever changes nothing gets what the other one wrote.
func TestMergeProperties(t *testing.T) {
	draft := rapid.Custom(func(t *rapid.T) message.Draft {
		return message.Draft{
			Urgency:   rapid.SampledFrom(roster.Urgencies).Draw(t, "urgency"),
			Subject:   rapid.SampledFrom([]string{"", "a", "b"}).Draw(t, "subject"),
			Email:     rich.Lines(rapid.SampledFrom([]string{"", "x", "y\nz"}).Draw(t, "email")),
			Spread:    rapid.IntRange(0, 2).Draw(t, "spread"),
			FirstOnly: rapid.Bool().Draw(t, "first"),
		}
	})
	rapid.Check(t, func(t *rapid.T) {
		base, other := draft.Draw(t, "base"), draft.Draw(t, "other")
		for _, pair := range [][2]message.Draft{{base, other}, {other, base}, {other, other}} {
			merged, clash, err := message.Merge(base, pair[0], pair[1])
			require.NoError(t, err)
			require.Empty(t, clash)
			require.Equal(t, other, merged)
		}
	})
}
