package httpapi_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	rules "upperlantern/internal/core/plan"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

type part struct {
	People []struct {
		ID           int64
		Name, Detail string
		LeftOut      bool
	}
	All     int
	Filters []struct {
		Words  string
		Leaves int
	}
}

func (p part) names() []string {
	names := []string{}
	for _, one := range p.People {
		name := one.Name
		if one.LeftOut {
			name = "not " + name
		}
		names = append(names, name)
	}
	return names
}

func TestWhatIsInAPart(t *testing.T) {
	_, c := start(t)
	polish := `{"on":"language","test":"is","value":"pl"}`
	body := draftOf(`{"kind":"group","group":1,"only":[`+polish+`]},{"kind":"rule","rule":[{"on":"role","test":"is","value":"guardian"},`+polish+`]},`+
		`{"kind":"role","role":"guardian"},{"kind":"people","people":[1],"leaveOut":true}`, "Come")
	for _, e := range []struct {
		query   string
		names   []string
		filters int
	}{
		{"part=0", []string{"Kinga Zielony"}, 1},
		{"part=1", []string{"Piotr Zielony"}, 2},
		{"part=2", []string{"Lena Achterberg", "not Rania Haddad", "Tuan Vo", "Piotr Zielony"}, 0},
		{"part=2&search=vo", []string{"Tuan Vo"}, 0},
		{"part=2&first=3", []string{"Piotr Zielony"}, 0},
	} {
		t.Run(e.query, func(t *testing.T) {
			var p part
			c.Want(http.StatusOK, http.MethodPost, "/api/plan/part?"+e.query, body, &p)
			assert.ElementsMatch(t, e.names, p.names())
			assert.Len(t, p.Filters, e.filters)
		})
	}
	var rule part
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/part?part=1", body, &rule)
	assert.Equal(t, 4, rule.Filters[0].Leaves, "four guardians, of whom one reads Polish")
	assert.Equal(t, 1, rule.Filters[1].Leaves)
	assert.Contains(t, c.Problem(http.StatusNotFound, http.MethodPost, "/api/plan/part?part=9", body), "no such part")
}

func TestAListBecomesPeopleAndAddresses(t *testing.T) {
	_, c := start(t)
	var found struct {
		People    []int64
		Addresses []string
		Known     int
		Unclear   []struct {
			Line          int
			Text, Problem string
		}
	}
	list := "07700 900417, RANIA@example.org; new@example.org\nPiotr Zielony\nnobody here\n07700 900417"
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/list", map[string]string{"text": list}, &found)
	assert.Equal(t, []string{"+447700900417", "RANIA@example.org", "new@example.org"}, found.Addresses)
	assert.Equal(t, 2, found.Known)
	assert.Len(t, found.People, 1)
	require.Len(t, found.Unclear, 1)
	assert.Equal(t, 3, found.Unclear[0].Line)

	var p plan
	c.Want(
		http.StatusOK, http.MethodPost, "/api/plan",
		draftOf(`{"kind":"addresses","addresses":["+447700900417","RANIA@example.org","new@example.org"]}`, "Hello"), &p,
	)
	assert.Equal(t, 2, p.Recipients, "Rania, once, and somebody who is not on the roster")
	assert.Equal(t, "addresses · 1 is not on the roster", p.Parts[0].Detail)
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/list-file", []byte("Name,E-mail\nRania,rania@example.org\n"), &found)
	assert.Equal(t, []string{"rania@example.org"}, found.Addresses)
	assert.Contains(
		t,
		c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/plan", draftOf(
			`{"kind":"addresses","addresses":["x"]}`, "Hello",
		)),
		"neither a mail address nor",
	)
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/plan/list-file", []byte("\x89PNG\x00")),
		"no roster file",
	)
}

func TestAStrangerIsWrittenToOnce(t *testing.T) {
	i, c := start(t)
	m := sendDraft(t, c, draftOf(
		`{"kind":"addresses","addresses":["new@example.org"]}`, "Hello {{first name, else there}}",
	))
	testkit.Eventually(t, "it is there", func() bool {
		all, err := i.Box.All(t.Context())
		return err == nil && len(all) == 1
	})
	all, err := i.Box.All(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "Hello there", strings.TrimSpace(all[0].Body))
	var rec struct {
		Recipients []struct {
			Person int64
			Name   string
		}
	}
	c.Record(m, &rec)
	assert.Equal(t, "new@example.org", rec.Recipients[0].Name)
	assert.Zero(t, rec.Recipients[0].Person)
}

func TestHowMuchPeopleWereSentLately(t *testing.T) {
	_, c := startWith(t, func(o *store.Organisation) { o.Sending = rules.Sending{LoadLimit: 1} })
	ask := func(more string) plan {
		var p plan
		c.Want(
			http.StatusOK, http.MethodPost, "/api/plan",
			strings.Replace(draftOf(juniors+","+coaches, "Come"), `"subject"`, more+`"subject"`, 1), &p,
		)
		return p
	}
	assert.Zero(t, ask("").Load.Over, "nobody was sent anything yet")
	sendDraft(t, c, draftOf(coaches, "Keys"))
	after := ask("")
	assert.Equal(t, contactLoad{Routine: 1, Most: 1, Over: 1, Limit: 1}, after.Load)
	var over part
	c.Want(http.StatusOK, http.MethodPost, "/api/plan/people?over=true", draftOf(juniors+","+coaches, "Come"), &over)
	assert.Equal(t, []string{"Naya Osei"}, over.names())

	spared := ask(`"spare":true,`)
	assert.Equal(t, after.Recipients-1, spared.Recipients)
	assert.Zero(t, spared.Load.Over)
	reasons := []string{}
	for _, l := range spared.LeftOut {
		reasons = append(reasons, l.Reason)
	}
	assert.Contains(t, reasons, "enough")
}

func TestHowMessagesAreSentIsSet(t *testing.T) {
	_, c := start(t)
	var v struct {
		Sending struct {
			Now struct {
				HoldSeconds int
				Steps       map[string][][]string
				Rules       rules.Sending
			}
			Testers []struct{ Name string }
		}
	}
	good := `{"holdSeconds":60,"steps":{"routine":[["text"],["email"]]},"rules":{"loadLimit":3,"bigFrom":2,"unwished":true,"testers":[1],` +
		`"quiet":{"text":{"from":"21:00","to":"07:00"}},"budgets":[{"month":5000}]}}`
	c.Want(http.StatusOK, http.MethodPut, "/api/settings/sending", good, &v)
	assert.Equal(t, 60, v.Sending.Now.HoldSeconds)
	assert.Equal(t, [][]string{{"text"}, {"email"}}, v.Sending.Now.Steps["routine"])
	assert.Equal(t, 3, v.Sending.Now.Rules.LoadLimit)
	assert.Equal(t, "21:00", v.Sending.Now.Rules.Quiet["text"].From.String())
	assert.NotEmpty(t, v.Sending.Testers[0].Name)
	var p struct {
		plan
		Confirm bool
		Budget  string
	}
	c.Want(http.StatusOK, http.MethodPost, "/api/plan", draftOf(juniors+","+coaches, "Come"), &p)
	assert.Equal(t, []string{"text"}, p.Steps[0].Channels)
	assert.True(t, p.DefaultSteps)
	assert.True(t, p.Confirm)
	assert.Equal(t, "£50.00", p.Budget)

	for name, b := range map[string]struct{ body, want string }{
		"a channel twice":   {`{"holdSeconds":1,"steps":{"routine":[["text"],["text"]]},"rules":{}}`, "text is on step 1 and again on step 2"},
		"no such urgency":   {`{"holdSeconds":1,"steps":{"often":[["text"]]},"rules":{}}`, "is no urgency"},
		"a tester gone":     {`{"holdSeconds":1,"steps":{},"rules":{"testers":[999]}}`, "no longer on the roster"},
		"a unit gone":       {`{"holdSeconds":1,"steps":{},"rules":{"budgets":[{"unit":9,"month":1}]}}`, "a unit that no longer exists"},
		"an unknown time":   {`{"holdSeconds":1,"steps":{},"rules":{"quiet":{"text":{"from":"25:00","to":"07:00"}}}}`, "no time of day"},
		"an unknown quiet":  {`{"holdSeconds":1,"steps":{},"rules":{"quiet":{"smoke":{"from":"21:00","to":"07:00"}}}}`, "smoke"},
		"a hold of a day":   {`{"holdSeconds":86400,"steps":{},"rules":{}}`, "600"},
		"less than nothing": {`{"holdSeconds":1,"steps":{},"rules":{"loadLimit":-1}}`, "loadLimit"},
	} {
		t.Run(name, func(t *testing.T) {
			status, content := c.Do(http.MethodPut, "/api/settings/sending", b.body)
			assert.Contains(t, []int{http.StatusUnprocessableEntity, http.StatusBadRequest}, status)
			assert.Contains(t, string(content), b.want)
		})
	}
}
