package plan_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
)

// readers are one person for each language, each with a mailbox, a mobile and a landline.
func readers(t *testing.T, tags ...string) *roster.Roster {
	t.Helper()
	all := roster.Group{ID: 1, Name: "All"}
	var people []roster.Person
	for i, tag := range tags {
		id := roster.PersonID(i + 1)
		people = append(people, roster.Person{
			ID: id, GivenName: "P" + tag, Language: tag, Status: roster.Active,
			Addresses: addresses("p"+tag+"@example.org", fmt.Sprintf("+44770090000%d", i)),
		})
		all.Members = append(all.Members, id)
	}
	r, err := roster.New(roster.Contents{People: people, Groups: []roster.Group{all}})
	require.NoError(t, err)
	return r
}

// copyOf says every line of a draft by pairs of original and target; a target with ✓
// is checked.
func copyOf(d message.Draft, tag string, pairs ...string) copies.Copy {
	c := copies.Copy{Language: tag, Targets: map[string]copies.Target{}}
	for _, l := range lines.Cut(lines.Written{Content: d.Content, Language: "en"}) {
		for i := 0; i < len(pairs); i += 2 {
			if l.Text != pairs[i] {
				continue
			}
			text, checked := strings.CutSuffix(pairs[i+1], "✓")
			target := copies.Target{Original: l.Line, Text: text, Source: copies.Person}
			if checked {
				target.CheckedBy = "Ola Nowak"
			}
			c.Targets[l.Key()] = target
		}
	}
	return c
}

func outing() message.Draft {
	return everybody(message.Draft{Content: message.Content{
		Subject: "Outing moved", Email: rich.Lines("Dear {{first name}}, come at 8:30."),
	}})
}

var polish = []string{"Outing moved", "Wycieczka przesunięta✓", "Dear {1}, come at 8:30.", "{1}, przyjdź o 8:30.✓"}

func with(list ...copies.Copy) plan.Settings {
	s := settings
	s.Copies = list
	return s
}

// emails are what each person reads, by their language.
func emails(p *plan.Plan, r *roster.Roster) map[string]string {
	list := map[string]string{}
	for _, d := range p.Deliveries {
		if d.Channel == roster.Email {
			list[r.At(p.Recipients[d.Recipients[0]].Person).Language] = d.Subject + ": " + d.Body
		}
	}
	return list
}

// Rules “Lines and copies” 5 and 6.
func TestEverybodyGetsTheCopyOfTheirLanguage(t *testing.T) {
	r, d := readers(t, "en", "pl", "pl-PL", "ar", "", "en-AU"), outing()
	p := plan.Make(r, d, with(copyOf(d, "pl", polish...), copyOf(d, "ar", "Outing moved", "تأجلت الرحلة✓")))
	const original = "Outing moved: Dear P"
	assert.Equal(t, map[string]string{
		"en": original + "en, come at 8:30.", "": original + ", come at 8:30.", "en-AU": original + "en-AU, come at 8:30.",
		"pl": "Wycieczka przesunięta: Ppl, przyjdź o 8:30.", "pl-PL": "Wycieczka przesunięta: Ppl-PL, przyjdź o 8:30.",
		"ar": original + "ar, come at 8:30.",
	}, emails(p, r), "an incomplete copy is never sent as if it were whole")
	assert.Equal(t, "pl checked, ar incomplete not used", p.CopiesSeen())
	sentences := p.Check(p.Summarise(r), "now")
	assert.Contains(t, sentences, "2 people get the Polish copy, checked by Ola Nowak.")
	assert.Contains(t, sentences, "1 person reads another language and gets the original, untranslated: Arabic 1 (1 line is missing).")
}

func TestWhoeverSendsSaysWhichCopiesAreGoodEnough(t *testing.T) {
	for _, c := range []struct {
		name    string
		urgency roster.Urgency
		accept  message.Accept
		used    bool
	}{
		{"a routine message wants checked ones", roster.Routine, "", false}, {"a timely one too", roster.Timely, "", false},
		{"late is worse than imperfect", roster.Emergency, "", true},
		{"unless the sender says otherwise", roster.Emergency, message.CheckedOnly, false},
		{"or takes the risk", roster.Routine, message.UncheckedToo, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, d := readers(t, "pl"), outing()
			d.Urgency, d.Reason, d.Copies.Accept = c.urgency, "flood", c.accept
			unread := copyOf(d, "pl", "Outing moved", "Wycieczka przesunięta✓", "Dear {1}, come at 8:30.", "{1}, przyjdź o 9:30.")
			p := plan.Make(r, d, with(unread))
			assert.Equal(t, c.used, p.Copies[0].Used)
			assert.Equal(t, map[bool]string{true: "pl", false: ""}[c.used], p.Recipients[0].Copy)
			summary := p.Summarise(r)
			if !c.used {
				return
			}
			assert.Contains(t, p.Check(summary, "now"), "1 person gets the Polish copy, of which nobody has read 1 line; the rest was checked by Ola Nowak.")
			assert.Contains(t, summary.Problems, plan.Problem{
				Code: plan.CopyDoubtful, Mend: plan.InCopies, Params: plan.Params{"language": "Polish", "lines": 1},
			})
		})
	}
}

// Rules 7 and 8.
func TestTwoLanguagesStandInBlocksOfTheirOwn(t *testing.T) {
	r, d := readers(t, "pl", "ar"), outing()
	d.Copies = message.Copies{Otherwise: message.FilledLines, Beneath: []roster.Channel{roster.Email}}
	p := plan.Make(r, d, with(copyOf(d, "pl", polish...), copyOf(d, "ar", "Dear {1}, come at 8:30.", "{1}، تعالوا الساعة 8:30.")))
	assert.Equal(t, map[string]string{
		"pl": "Wycieczka przesunięta: Ppl, przyjdź o 8:30.\n\n* * *\n\nDear Ppl, come at 8:30.",
		"ar": "Outing moved: Dear Par, come at 8:30.\n\n* * *\n\nPar، تعالوا الساعة 8:30.",
	}, emails(p, r))
	html := p.HTML(p.Deliveries[0], nil)
	assert.Regexp(t, `(?s)^<div lang="pl" dir="ltr">.*przyjdź.*</div>\n<hr.*<div lang="en" dir="ltr">.*come at`, html)
	assert.Regexp(t, `(?s)<div lang="en" dir="ltr">.*come at.*<div lang="ar" dir="rtl">.*تعالوا`, p.HTML(p.Deliveries[1], nil))
	assert.Equal(t, "pl", p.Content(p.Deliveries[0]).Language)

	letters := p.Letters(r, []roster.PersonID{1, 2})
	require.Len(t, letters, 2)
	assert.Equal(t, []string{"pl", "en"}, letters[0].Languages)
	assert.Equal(t, "Wycieczka przesunięta", letters[0].Subject)
}

// Rule 10: a text in another alphabet costs what it takes.
func TestPartsAreThoseOfEachLanguage(t *testing.T) {
	r, d := readers(t, "en", "pl"), outing()
	d.Email = rich.Lines(strings.Repeat("Come to the lock. ", 6))
	d.Steps = precedence.Steps{{roster.Text}}
	p := plan.Make(r, d, with(copyOf(d, "pl", "Outing moved", "x✓", "Come to the lock.", "Przyjdź do śluzy.✓")))
	parts := map[string]int{}
	for _, text := range p.Deliveries {
		parts[text.Language] = text.Parts
	}
	assert.Equal(t, map[string]int{"en": 1, "pl": 2}, parts)
	assert.Equal(t, plan.Texts{Texts: 1, Most: 2, Alphabet: segment.UCS2, Cost: 2 * 3800}, p.TextsIn(p.Copies[0]))
}

// Fewer or other characters in the original save nothing in a copy.
func TestTheMeterAdvisesOnTheOriginalOnly(t *testing.T) {
	r, d := readers(t, "en", "pl"), outing()
	d.Subject, d.Email, d.Steps = "", rich.Lines(strings.Repeat("Come – now. ", 10)), precedence.Steps{{roster.Text}}
	alone := plan.Make(r, d, settings).Summarise(r).Meter
	copied := plan.Make(r, d, with(copyOf(d, "pl", "Come – now.", "Przyjdzie – teraz.✓"))).Summarise(r).Meter
	assert.Equal(t, 2, alone.Saves, "both read the original, of two parts instead of one")
	assert.Equal(t, 1, copied.Saves)
	assert.Equal(t, 5, copied.Total, "the parts are those of both")
}

// Rule 9, and the glossary.
func TestWhatTheProgramAddsIsInTheLanguageOfTheCopy(t *testing.T) {
	r, d := readers(t, "pl"), outing()
	d.Email = rich.Lines("Come, {{group}}.")
	s := with(copyOf(d, "pl", "Outing moved", "Wycieczka✓", "Come, {1}.", "Przyjdź, {1}.✓"))
	s.Terms = []copies.Term{{Term: "All", Language: "pl", Says: "wszyscy"}}
	p := plan.Make(r, d, s)
	assert.Equal(t, map[string]string{"pl": "Wycieczka: Przyjdź, wszyscy."}, emails(p, r))
	trial, _ := p.Trial(0, []roster.Address{{Channel: roster.Email, Value: "me@example.org"}}, "")
	assert.Equal(t, "PRÓBA: Wycieczka", trial[0].Subject)
}

func TestPeopleAreCountedByTrust(t *testing.T) {
	list := []plan.LanguageCount{
		{Tag: "en", Reads: true, People: 7}, {Tag: "", People: 2}, {Tag: "pl", Got: "pl", People: 5}, {Tag: "pl-PL", Got: "pl", People: 1},
		{Tag: "ar", Got: "ar", People: 3}, {Tag: "so", People: 4},
	}
	standings := map[string]copies.Standing{"pl": {State: copies.Checked}, "ar": {State: copies.Unchecked}}
	assert.Equal(t, plan.Trust{Original: 9, Checked: 6, Unread: 3, Untranslated: 4}, plan.CountTrust(list, standings))
}

// “Try it on me” sends any copy, also one that is not used, for whomever it is filled.
func TestATrialOfAnyCopy(t *testing.T) {
	r, d := readers(t, "en"), outing()
	p := plan.Make(r, d, with(copyOf(d, "ar", "Dear {1}, come at 8:30.", "{1}، تعال 8:30"), copyOf(d, "pl", polish...)))
	own := []roster.Address{{Channel: roster.Email, Value: "me@example.org"}}
	for language, want := range map[string]string{
		"": "Dear Pen, come at 8:30.", "pl": "Pen, przyjdź o 8:30.", "ar": "Pen، تعال 8:30", "so": "Dear Pen, come at 8:30.",
	} {
		trial, missing := p.Trial(0, own, language)
		require.Empty(t, missing)
		assert.Contains(t, trial[0].Body, want, language)
	}
	trial, _ := p.Trial(0, own, "ar")
	assert.Equal(t, "ar", trial[0].Language)
	assert.Contains(t, trial[0].Subject, "Outing moved", "what is missing is the original")
}

func TestACallReadsTheCopyWhereTheOriginalIsARecording(t *testing.T) {
	r, recorded := readers(t, "pl"), outing()
	recorded.Voice.Recording, recorded.Voice.Seconds = &attachment.File{Hash: "0", Type: "audio/wav"}, 30
	recorded.Steps = precedence.Steps{{roster.Voice}}
	p := plan.Make(r, recorded, with(copyOf(recorded, "pl", polish...)))
	require.Len(t, p.Deliveries, 1)
	assert.Equal(t, "Ppl, przyjdź o 8:30.", p.Deliveries[0].Body)
	assert.Empty(t, p.Content(p.Deliveries[0]).Parts.Recording)
	assert.Less(t, p.Deliveries[0].Seconds, 30)
}
