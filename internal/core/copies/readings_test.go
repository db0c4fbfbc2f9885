package copies_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"upperlantern/internal/core/copies"
)

var morning = time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC)

func later(minutes int) time.Time { return morning.Add(time.Duration(minutes) * time.Minute) }

func TestWhatAReaderSaysOfALine(t *testing.T) {
	machine := copies.Target{Text: "Łódź o 9", Source: copies.Machine, By: "the translation service", At: morning}
	checked := machine
	checked.CheckedBy, checked.CheckedAt = "Ewa", later(1)
	says := func(reader, text string, minutes int) copies.Saying {
		return copies.Saying{Reader: reader, Text: text, At: later(minutes)}
	}
	for _, c := range []struct {
		name   string
		line   copies.Target
		says   copies.Saying
		seen   string
		before string
		others []copies.Saying
		text   string
		by     string
	}{
		{"it is right", machine, says("Piotr", "Łódź o 9", 5), "Łódź o 9", "", nil, "Łódź o 9", "Piotr"},
		{"another is right", machine, says("Piotr", "Łódka o 9", 5), "Łódź o 9", "", nil, "Łódka o 9", "Piotr"},
		{"it was missing", copies.Target{}, says("Piotr", "Łódka o 9", 5), "", "", nil, "Łódka o 9", "Piotr"},
		{"the desk wrote meanwhile", machine, says("Piotr", "Łódka o 9", 5), "Łódź o 8", "", nil, "Łódź o 9", ""},
		{"the desk wrote the same", machine, says("Piotr", "Łódź o 9", 5), "Łódź o 8", "", nil, "Łódź o 9", "Piotr"},
		{"somebody checked it", checked, says("Piotr", "Łódka o 9", 5), "Łódź o 9", "", nil, "Łódź o 9", ""},
		{"they checked it themselves", checked, says("Ewa", "Łódka o 9", 5), "Łódź o 9", "Łódź o 9", nil, "Łódka o 9", "Ewa"},
		{"somebody of their name checked it", checked, says("Ewa", "Łódka o 9", 5), "Łódź o 9", "Łódź o 8", nil, "Łódź o 9", ""},
		{"it is right and was checked", checked, says("Piotr", "Łódź o 9", 5), "Łódź o 9", "", nil, "Łódź o 9", "Ewa"},
		{
			"another reader's words still stand beside it", machine, says("Ewa", "Łódź o 9", 6), "Łódź o 9", "",
			[]copies.Saying{says("Piotr", "Łódka o 9", 5)}, "Łódź o 9", "",
		},
		{
			"the other reader says the same", machine, says("Ewa", "Łódka o 9", 6), "Łódź o 9", "",
			[]copies.Saying{says("Piotr", "Łódka o 9", 5)}, "Łódka o 9", "Ewa",
		},
		{
			"the desk has settled what the other said", checked, says("Jan", "Łódź o 9", 6), "Łódź o 9", "",
			[]copies.Saying{says("Piotr", "Łódka o 9", 0)}, "Łódź o 9", "Ewa",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := c.line.Heard(c.says, c.seen, c.before, c.others)
			assert.Equal(t, c.text, got.Text)
			assert.Equal(t, c.by, got.CheckedBy)
		})
	}
}

// Whatever readers say in whatever order: a checked line has no other words beside it,
// and what somebody else checked is never overwritten.
func TestReadersOverwriteNobody(t *testing.T) {
	word := rapid.SampledFrom([]string{"", "a", "b", "c"})
	reader := rapid.SampledFrom([]string{"Ewa", "Piotr", "Jan"})
	rapid.Check(t, func(t *rapid.T) {
		var line copies.Target
		said := map[string]copies.Saying{}
		for minute := range rapid.IntRange(1, 12).Draw(t, "sayings") {
			s := copies.Saying{Reader: reader.Draw(t, "reader"), Text: word.Filter(func(s string) bool { return s != "" }).Draw(t, "says"), At: later(minute + 1)}
			var others []copies.Saying
			for name, o := range said {
				if name != s.Reader {
					others = append(others, o)
				}
			}
			before := line
			line = line.Heard(s, word.Draw(t, "seen"), said[s.Reader].Text, others)
			said[s.Reader] = s
			if before.Checked() && before.CheckedBy != s.Reader {
				assert.Equal(t, before.Text, line.Text)
			}
			for _, o := range said {
				if line.Checked() && line.Differs(o) {
					t.Fatalf("%q is checked by %s, and %s says %q", line.Text, line.CheckedBy, o.Reader, o.Text)
				}
			}
		}
	})
}

func TestWhoReadsALanguage(t *testing.T) {
	for _, c := range []struct {
		name, typed, tag string
		want             bool
	}{
		{"its English name", "Polish", "pl", true}, {"one of several", "Arabic; polish", "pl", true},
		{"its own name", "polski", "pl", true}, {"its tag", "pl", "pl", true}, {"a tag with a region", "pt-BR", "pt-PT", true},
		{"the name of the language of a region", "Portuguese", "pt-BR", true}, {"its own name in its script", "العربية، polski", "ar", true},
		{"another", "Spanish", "pl", false}, {"nothing", "", "pl", false}, {"no language", "yes", "pl", false},
		{"part of a word", "Polishing", "pl", false}, {"a yes in another language", "no", "pl", false},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, copies.Reads(c.typed, c.tag)) })
	}
}
