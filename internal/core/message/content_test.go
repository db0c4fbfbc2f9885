package message_test

import (
	"encoding/json"
	"reflect"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/message"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

func TestBlanksAreFilledWhenATemplateIsUsed(t *testing.T) {
	d := message.Draft{
		Content: message.Content{Subject: "Outing on {{ask: Day}}", OwnText: true, Text: "{{ask:day}}, {{ask: place}}", Email: rich.Doc{Content: []rich.Node{{
			Type: rich.BulletList, Content: []rich.Node{{Type: rich.ListItem, Content: []rich.Node{
				{Type: rich.Paragraph, Content: []rich.Node{{Type: rich.Text, Text: "{{first name}}: {{ask: day}} at {{ask: time}}"}}},
			}}}}}}},
	}
	assert.Equal(t, []string{"day", "time", "place"}, d.Blanks())
	filled := d.FillBlanks(map[string]string{"day": "Monday", "time": " 08:30 ", "other": "x"})
	assert.Equal(t, "Outing on Monday", filled.Subject)
	assert.Equal(t, "- {{first name}}: Monday at 08:30", filled.Email.Plain())
	assert.Equal(t, "Monday, {{ask: place}}", filled.Text, "what was not filled stays")
	assert.Contains(t, d.Email.Plain(), "{{ask: day}}", "the template itself is not touched")
}

// fill gives a value something that is not its zero.
func fill(v reflect.Value) {
	switch v.Kind() {
	case reflect.String:
		v.SetString("x")
	case reflect.Bool:
		v.SetBool(true)
	case reflect.Int, reflect.Int64:
		v.SetInt(1)
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 1, 1))
		fill(v.Index(0))
	case reflect.Map:
		v.Set(reflect.MakeMap(v.Type()))
		key := reflect.New(v.Type().Key()).Elem()
		fill(key)
		v.SetMapIndex(key, reflect.New(v.Type().Elem()).Elem())
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				fill(v.Field(i))
				return
			}
		}
	}
}

// No field of a draft is forgotten when two windows changed it.
func TestEveryFieldOfADraftIsMerged(t *testing.T) {
	for _, part := range []string{"Content", "Routing"} {
		fields := reflect.ValueOf(message.Draft{}).FieldByName(part).Type()
		for i := range fields.NumField() {
			t.Run(fields.Field(i).Name, func(t *testing.T) {
				var theirs, mine message.Draft
				if fields.Field(i).Type == reflect.TypeFor[rich.Doc]() {
					theirs.Email = rich.Lines("x")
				} else {
					fill(reflect.ValueOf(&theirs).Elem().FieldByName(part).Field(i))
				}
				merged, clash, err := message.Merge(message.Draft{}, message.Draft{}, theirs)
				require.NoError(t, err)
				require.Empty(t, clash)
				want, err := json.Marshal(theirs)
				require.NoError(t, err)
				got, err := json.Marshal(merged)
				require.NoError(t, err)
				require.JSONEq(t, string(want), string(got), "what they changed is kept")
				require.NotEqual(t, message.Draft{}, theirs)
				require.NotEmpty(t, fields.Field(i).Tag.Get("words"), "a clash can be said")

				mine = theirs
				base := message.Draft{}
				base.Subject = "so that something is always the same"
				mine.Subject, theirs.Subject = base.Subject, base.Subject
				_, clash, err = message.Merge(base, mine, theirs)
				require.NoError(t, err)
				require.Empty(t, clash, "both changed it alike")
			})
		}
	}
}

func TestMerge(t *testing.T) {
	base := message.Draft{
		Content: message.Content{Subject: "Outing", Email: rich.Lines("Come")},
		Routing: message.Routing{Urgency: roster.Routine},
	}
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
			Content: message.Content{
				Subject: rapid.SampledFrom([]string{"", "a", "b"}).Draw(t, "subject"),
				Email:   rich.Lines(rapid.SampledFrom([]string{"", "x", "y\nz"}).Draw(t, "email")),
			},
			Routing: message.Routing{
				Urgency: rapid.SampledFrom(roster.Urgencies).Draw(t, "urgency"), Spread: rapid.IntRange(0, 2).Draw(t, "spread"),
				FirstOnly: rapid.Bool().Draw(t, "first"),
			},
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
