package plan_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
)

func file(name, tag string) attachment.File {
	return attachment.File{Hash: strings.Repeat("a", 63) + name[:1], Name: name, Type: "application/pdf", Size: 10, Language: tag}
}

// names are those of the files that each person gets by email, by their language.
func names(p *plan.Plan, r *roster.Roster) map[string]string {
	list := map[string]string{}
	for _, d := range p.Deliveries {
		var names []string
		for _, f := range p.Content(d).Parts.Files {
			names = append(names, f.Name)
		}
		if d.Channel == roster.Email {
			list[r.At(p.Recipients[d.Recipients[0]].Person).Language] = strings.Join(names, " ")
		}
	}
	return list
}

// Rule “Lines and copies” 11.
func TestFilesForReadersOfALanguage(t *testing.T) {
	r, d := readers(t, "en", "pl", "pl-PL", "ar", ""), outing()
	for _, c := range []struct {
		name  string
		files []attachment.File
		want  map[string]string
	}{
		{"for everybody", []attachment.File{file("map", "")}, map[string]string{"en": "map", "pl": "map", "pl-PL": "map", "ar": "map", "": "map"}},
		{
			"one beside that for everybody", []attachment.File{file("map", ""), file("leaflet", "pl")},
			map[string]string{"en": "map", "pl": "map leaflet", "pl-PL": "map leaflet", "ar": "map", "": "map"},
		},
		{
			"one in each of two languages", []attachment.File{file("flyer", "en"), file("leaflet", "pl")},
			map[string]string{"en": "flyer", "pl": "leaflet", "pl-PL": "leaflet", "ar": "flyer", "": "flyer"},
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			d.Files = c.files
			p := plan.Make(r, d, with(copyOf(d, "pl", polish...)))
			assert.Equal(t, c.want, names(p, r))
			assert.Equal(t, c.want, names(plan.Make(r, d, settings), r), "it does not matter whether there is a copy")
		})
	}
	d.Files = []attachment.File{file("flyer", "en"), file("leaflet", "pl")}
	p := plan.Make(r, d, with(copyOf(d, "pl", polish...)))
	sentences := strings.Join(p.Check(p.Summarise(r), "now"), "\n")
	assert.Contains(t, sentences, "flyer for readers of English goes to 3 people.")
	assert.Contains(t, sentences, "leaflet for readers of Polish goes to 2 people.")
	assert.Contains(t, sentences, "2 people get the Polish copy")
	d.Steps = precedence.Steps{{roster.Text}}
	p = plan.Make(r, d, with(copyOf(d, "pl", polish...)))
	assert.Equal(t, 2, p.TextsIn(p.Copies[0]).Texts, "the texts of the copy are counted all the same")
}

// Two who share a mailbox get one email each when their files differ.
func TestASharedMailboxWithFilesInTwoLanguages(t *testing.T) {
	shared := addresses("home@example.org")
	r, err := roster.New(roster.Contents{
		People: []roster.Person{
			{ID: 1, GivenName: "Ana", Language: "en", Status: roster.Active, Addresses: shared},
			{ID: 2, GivenName: "Jan", Language: "pl", Status: roster.Active, Addresses: shared},
		},
		Groups: []roster.Group{{ID: 1, Name: "All", Members: []roster.PersonID{1, 2}}},
	})
	require.NoError(t, err)
	d := outing()
	d.Email = d.Email.Map(func(string) string { return "The same for both." })
	assert.Len(t, plan.Make(r, d, settings).Deliveries, 1)
	d.Files = []attachment.File{file("flyer", "en"), file("leaflet", "pl")}
	assert.Len(t, plan.Make(r, d, settings).Deliveries, 2)
}

// The most that one email has counts, not all files together.
func TestFilesOfOtherLanguagesDoNotFillAMailbox(t *testing.T) {
	r, d := readers(t, "en", "pl"), outing()
	s := settings
	s.Sending.MailLimit = 1
	for _, tag := range []string{"en", "pl"} {
		f := file(tag, tag)
		f.Size = 900_000
		d.Files = append(d.Files, f)
	}
	p := plan.Make(r, d, s)
	_, blocked := p.Summarise(r).Blocked()
	assert.False(t, blocked)
	d.Files[1].Language = "en"
	p = plan.Make(r, d, s)
	problem, _ := p.Summarise(r).Blocked()
	assert.Equal(t, plan.TooLarge, problem.Code)
}

// called is a message by call only, and what each person hears, by their language.
func called(
	t *testing.T, r *roster.Roster, d message.Draft, s plan.Settings,
) (*plan.Plan, map[string]delivery.Content) {
	t.Helper()
	d.Steps = precedence.Steps{{roster.Voice}}
	p := plan.Make(r, d, s)
	list := map[string]delivery.Content{}
	for _, one := range p.Deliveries {
		list[r.At(p.Recipients[one.Recipients[0]].Person).Language] = p.Content(one)
	}
	return p, list
}

// Rule “Lines and copies” 12.
func TestARecordingForALanguage(t *testing.T) {
	r, d := readers(t, "en", "pl-PL", "ar"), outing()
	d.Voice.Others = []message.Recording{{File: attachment.File{Hash: "polish", Type: "audio/wav", Language: "pl"}, Seconds: 17}}
	p, heard := called(t, r, d, with(copyOf(d, "ar", "Outing moved", "تأجلت الرحلة✓", "Dear {1}, come at 8:30.", "{1}، تعال 8:30✓")))
	assert.Equal(t, "polish", heard["pl-PL"].Parts.Recording, "though there is no Polish copy")
	assert.Empty(t, heard["pl-PL"].Body)
	assert.Empty(t, heard["en"].Parts.Recording)
	assert.Contains(t, heard["ar"].Body, "تعال")
	for _, one := range p.Deliveries {
		if p.Content(one).Parts.Recording != "" {
			assert.Equal(t, 17, one.Seconds)
		}
	}
}

// Rule “Lines and copies” 13.
func TestALanguageThatNoVoiceSpeaks(t *testing.T) {
	r, d := readers(t, "en", "so", "pl"), outing()
	somali := copyOf(d, "so", "Outing moved", "Safarkii waa la beddelay✓", "Dear {1}, come at 8:30.", "{1}, kaalay 8:30✓")
	s := with(somali, copyOf(d, "pl", polish...))
	s.Sending.Voiceless = []string{"so"}
	p, heard := called(t, r, d, s)
	assert.Equal(t, "en", heard["so"].Language, "they hear the original")
	assert.Contains(t, heard["so"].Body, "come at 8:30")
	assert.Equal(t, "pl", heard["pl"].Language)
	assert.Contains(t, strings.Join(p.Check(p.Summarise(r), "now"), "\n"), "gets the original, untranslated: Somali 1 (no voice speaks it)")
	for _, rec := range p.Recipients {
		if r.At(rec.Person).Language == "so" {
			assert.Empty(t, rec.Copy)
		}
	}

	both := d
	both.Steps = precedence.Steps{{roster.Text, roster.Voice}}
	for _, one := range plan.Make(r, both, s).Deliveries {
		if p.Content(one).Language == "so" {
			assert.Equal(t, roster.Text, one.Channel)
			assert.Contains(t, one.Body, "kaalay")
		}
		if one.Channel == roster.Voice {
			assert.NotContains(t, one.Body, "kaalay", "the call does not read the text in another language")
		}
	}

	d.Copies.Voiceless = message.NextStep
	p, heard = called(t, r, d, s)
	assert.NotContains(t, heard, "so")
	assert.Equal(t, map[string]plan.Reason{"Pso": plan.NoVoice}, reasons(p, r))

	d.Steps = precedence.Steps{{roster.Voice}, {roster.Email}}
	p = plan.Make(r, d, s)
	assert.Empty(t, p.LeftOut)
	assert.Contains(t, emails(p, r)["so"], "kaalay", "their next step is the email, in their language")

	d.Voice.Others = []message.Recording{{File: attachment.File{Hash: "somali", Type: "audio/wav", Language: "so"}, Seconds: 9}}
	_, heard = called(t, r, d, s)
	assert.Equal(t, "somali", heard["so"].Parts.Recording, "a recording needs no voice")
}
