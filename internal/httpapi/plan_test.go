package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/roster"
)

type contactLoad struct{ Routine, Timely, Emergency, Most, Over, Limit int }

type plan struct {
	Recipients, Named, NamedTwice, KeptOut, Nobody, Deliveries, Shared, Overridden, Wished int
	DefaultSteps, Sendable                                                                 bool
	Cost                                                                                   string
	Steps                                                                                  []struct {
		Channels []string
		People   int
	}
	Channels []struct {
		Channel, Cost                      string
		People, Deliveries, Parts, Seconds int
	}
	LeftOut []struct {
		Reason, Sentence, WayOut string
		People                   int
	}
	Languages []struct {
		Tag, Name string
		People    int
		Reads     bool
	}
	Meter struct {
		Alphabet, Swapped               string
		Least, Most, Total, Room, Saves int
	}
	Parts []struct {
		Label, Detail      string
		People, Recipients int
		Adds               int
		Within             string
	}
	Load     contactLoad
	Problems []struct {
		Code, Sentence string
		Blocks         bool
	}
	Sentences []string
}

const (
	juniors = `{"kind":"group","group":1}`
	coaches = `{"kind":"group","group":4}`
)

func TestPlanSaysWhatEveryChoiceDoes(t *testing.T) {
	_, c := start(t)
	var p plan
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", draftOf(juniors+","+coaches, "Dear {{first name}} – come"), &p)
	assert.Equal(t, 6, p.Named)
	assert.Equal(t, 4, p.Recipients)
	assert.Equal(t, 2, p.Nobody)
	assert.Equal(t, p.Recipients+p.Nobody, p.Named+p.KeptOut, "everybody is accounted for")
	assert.True(t, p.DefaultSteps)
	assert.True(t, p.Sendable)
	assert.Equal(t, "£0.10", p.Cost)
	people := []int{}
	for _, s := range p.Steps {
		people = append(people, s.People)
	}
	assert.Equal(t, []int{2, 1, 1}, people)
	assert.Equal(t, "ucs2", p.Meter.Alphabet)
	assert.Equal(t, "Dear {{first name}} - come", p.Meter.Swapped)
	assert.Equal(t, "Junior squads", p.Parts[0].Label)
	assert.Equal(t, "group · 2 groups inside it · their guardians", p.Parts[0].Detail)
	assert.Contains(t, p.Sentences[0], "4 people get this message")
	reasons := []string{}
	for _, l := range p.LeftOut {
		assert.NotEmpty(t, l.WayOut)
		reasons = append(reasons, l.Reason)
	}
	assert.Equal(t, []string{"no-address", "opted-out"}, reasons)
	reading := map[string]bool{}
	for _, l := range p.Languages {
		reading[l.Name] = l.Reads
	}
	assert.Equal(t, map[string]bool{"English": true, "Arabic": false, "Polish": false}, reading)
}

func TestPlanFollowsTheSteps(t *testing.T) {
	_, c := start(t)
	with := func(steps, urgency string) plan {
		var p plan
		body := strings.Replace(draftOf(juniors+","+coaches, "Come"), `"subject"`, steps+`"subject"`, 1)
		c.Want(http.StatusOK, http.MethodPost, "/api/plan", strings.Replace(body, "routine", urgency, 1), &p)
		return p
	}
	textFirst := with(`"steps":[["text"],["voice"]],`, "routine")
	assert.Equal(t, 4, textFirst.Recipients)
	assert.Len(t, textFirst.Channels, 2)
	assert.False(t, textFirst.DefaultSteps)

	emergency := with(`"reason":"Flood warning",`, "emergency")
	assert.Equal(t, 5, emergency.Recipients, "Tuan declined routine messages only")
	assert.Equal(t, 1, emergency.Overridden)
	assert.Contains(t, strings.Join(emergency.Sentences, " "), "As an emergency it goes to 1 person who declined")

	off := with(`"steps":[],`, "routine")
	assert.Zero(t, off.Recipients)
	assert.Equal(t, "nobody-reached", off.Problems[0].Code)
}

func TestPreviewAnswersForAnybody(t *testing.T) {
	_, c := start(t)
	body := draftOf(juniors, "Dear {{first name}} about {{dependents}}")
	type preview struct {
		Index, All                 int
		Name, Why, LeftOut, Speaks string
		Deliveries                 []struct{ Channel, To, Subject, Body string }
	}
	var found struct {
		People []struct {
			ID   int64
			Name string
		}
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/people", nil, &found)
	id := map[string]int64{}
	for _, p := range found.People {
		id[p.Name] = p.ID
	}
	for _, e := range []struct{ who, body, why, left string }{
		{"Rania Haddad", "Dear Rania about Sami", "Guardian of Sami Haddad (Junior squads › U14).", ""},
		{"Piotr Zielony", "Dear Piotr about Kinga", "Reached on step 2: no email on file. Guardian of Kinga Zielony (Junior squads › U12).", ""},
		{"Tuan Vo", "", "", "Named, but gets nothing: asked not to get such messages."},
		{"Di Venn", "", "", "No part of the audience names them."},
	} {
		t.Run(e.who, func(t *testing.T) {
			var p preview
			c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/plan/preview?person=%d", id[e.who]), body, &p)
			assert.Equal(t, e.who, p.Name)
			assert.Equal(t, e.why, p.Why)
			assert.Equal(t, e.left, p.LeftOut)
			if e.body != "" {
				require.NotEmpty(t, p.Deliveries)
				assert.Equal(t, e.body, p.Deliveries[0].Body)
			}
		})
	}
	var last preview
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/preview?index=99", body, &last)
	assert.Equal(t, last.All-1, last.Index, "the last one, not an error")
	var nobody preview
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/preview?index=0", draftOf("", "x"), &nobody)
	assert.Zero(t, nobody.All)
}

func TestPlanPeopleNamesWhoIsBehindAFigure(t *testing.T) {
	_, c := start(t)
	body := draftOf(juniors+","+coaches, "Come")
	for query, want := range map[string][]string{
		"step=1":                             {"Rania Haddad: rania@example.org", "Naya Osei: naya@example.org, naya@quillmere.example"},
		"step=3":                             {"Lena Achterberg: +44 7700 900188"},
		"channel=text":                       {"Piotr Zielony: +44 7700 900418"},
		"language=pl":                        {"Piotr Zielony: +44 7700 900418"},
		"language=other&step=1":              {"Rania Haddad: rania@example.org"},
		"from=%2B447700900100&channel=voice": {"Lena Achterberg: +44 7700 900188"},
		"wished=true":                        {},
		"":                                   {},
		"reason=any":                         {"Di Venn: no way to reach them on file", "Tuan Vo: asked not to get such messages"},
		"reason=no-address":                  {"Di Venn: no way to reach them on file"},
		"reason=any&first=1":                 {"Tuan Vo: asked not to get such messages"},
		"reason=contact-barred":              {},
	} {
		t.Run(query, func(t *testing.T) {
			var found struct {
				People []struct{ Name, Detail string }
				All    int
			}
			c.Want(http.StatusOK, http.MethodPost, "/api/plan/people?"+query, body, &found)
			got := []string{}
			for _, p := range found.People {
				got = append(got, p.Name+": "+p.Detail)
			}
			assert.Equal(t, want, got)
		})
	}
}

func TestGroupsFindAndPeople(t *testing.T) {
	_, c := start(t)
	var groups []struct {
		Name               string
		Own, People, Depth int
		Within             []string
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/groups", nil, &groups)
	require.Len(t, groups, 4)
	assert.Equal(t, "Junior squads", groups[0].Name)
	assert.Equal(t, 2, groups[0].People)
	assert.Zero(t, groups[0].Own)
	assert.Equal(t, []string{"Junior squads"}, groups[1].Within)
	assert.Equal(t, 1, groups[1].Depth)

	var inside struct {
		All    int
		People []struct{ Name, Detail string }
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/groups/1/people", nil, &inside)
	assert.Equal(t, 2, inside.All)
	assert.Equal(t, "Junior squads › U14", inside.People[0].Detail)

	var found struct {
		Groups []struct{ Name string }
		Roles  []struct {
			Role   string
			People int
		}
		People []struct {
			Name, Detail string
			Groups       []struct{ Name string }
		}
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/find", nil, &found)
	assert.Len(t, found.Groups, 4)
	assert.Empty(t, found.People, "nobody is offered before a name is typed")
	c.Want(http.StatusOK, http.MethodGet, "/api/find?search=zielony", nil, &found)
	require.Len(t, found.People, 2)
	assert.Equal(t, "dependent, J2", found.People[0].Detail)
	require.Len(t, found.People[0].Groups, 1, "with what they are in")
	assert.Equal(t, "U12", found.People[0].Groups[0].Name)

	var person struct {
		Name, Speaks string
		Addresses    []struct{ Channel, Shown, Health string }
		Ties         []struct {
			Name               string
			Guardian, Receives bool
		}
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/people/1", nil, &person)
	assert.Equal(t, "Rania Haddad", person.Name)
	assert.Equal(t, "Arabic", person.Speaks)
	assert.Equal(t, "+44 7700 900417", person.Addresses[0].Shown)
	assert.Equal(t, "Sami Haddad", person.Ties[0].Name)
}

func TestDraftsAreCopiedAndDeleted(t *testing.T) {
	_, c := start(t)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	c.Want(
		http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draftOf(juniors, "Come")),
		nil,
	)
	var copied struct {
		Title  string
		Labels []string
		Draft  struct{ Email string }
	}
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", fmt.Sprintf(`{"copyOf":%d}`, m.ID), &copied)
	assert.Equal(t, "Come", copied.Draft.Email)
	assert.Equal(t, []string{"Junior squads"}, copied.Labels)
	c.Want(http.StatusNotFound, http.MethodPost, "/api/messages", `{"copyOf":999}`, nil)
	c.Want(http.StatusNoContent, http.MethodDelete, path, nil, nil)
	c.Want(http.StatusNotFound, http.MethodGet, path, nil, nil)
}

func TestTheBenchTakesCarriersDown(t *testing.T) {
	_, c := start(t)
	var carriers []struct {
		Channel string
		Down    bool
	}
	c.Want(http.StatusOK, http.MethodPut, "/api/bench/carriers", `{"channel":"voice","down":true}`, &carriers)
	require.Len(t, carriers, 4)
	assert.True(t, carriers[2].Down)
	c.Want(http.StatusNotFound, http.MethodGet, "/api/bench/people/999", nil, nil)
}

func TestWishesAreHonoured(t *testing.T) {
	_, c := start(t)
	ask := func(more string) plan {
		var p plan
		c.Want(
			http.StatusOK, http.MethodPost, "/api/plan",
			strings.Replace(draftOf(juniors+","+coaches, "Come"), `"subject"`, more+`"subject"`, 1), &p,
		)
		return p
	}
	require.Zero(t, ask("").Wished)
	sheet := person(c, rania).Sheet
	sheet.Wish = roster.Text
	save(t, c, sheet)
	honoured, passed := ask(""), ask(`"unwished":true,`)
	assert.Equal(t, []int{1, 0}, []int{honoured.Wished, passed.Wished})
	assert.Equal(t, passed.Steps[0].People-1, honoured.Steps[0].People, "by text instead of email")
	assert.Equal(t, passed.Recipients, honoured.Recipients)
}
