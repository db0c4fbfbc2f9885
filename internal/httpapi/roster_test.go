package httpapi_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi"
	"upperlantern/internal/password"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// units is a club of two units: Rania, Sami and the coach row, Tomás watches
// the flood and is Sami’s other guardian.
const units = `Id,Name,Role,Mobile,Email,Groups,Guardians,Unit
G1,Rania Haddad,guardian,07700 900417,rania@example.org,,,Rowing
J1,Sami Haddad,junior,,,Squads > U14,G1;W1,Rowing
C1,Naya Osei,coach,07700 900999,naya@example.org,Everybody,,Rowing
W1,Tomás Venn,warden,07700 900555,tomas@example.org,Everybody,,Flood watch
W2,Di Venn,warden,07700 900556,,Everybody,,Flood watch
`

const (
	rania = iota + 1
	sami
	naya
	tomas
	di
)

// startUnits runs a program with two units and returns clients of an account
// that reaches everything and of one that reaches a unit.
func startUnits(t *testing.T, unit string, rights ...access.Right) (*app.Instance, *testkit.Client, *testkit.Client) {
	folder := testkit.Folder(t, "", nil)
	s, err := store.Open(folder)
	require.NoError(t, err)
	ids := map[string]roster.UnitID{}
	for _, name := range []string{"Rowing", "Flood watch"} {
		ids[name], err = s.PutUnit(t.Context(), roster.Unit{Name: name})
		require.NoError(t, err)
	}
	hash, err := password.Hash(testkit.Password, testkit.PasswordCost)
	require.NoError(t, err)
	_, err = s.PutAccount(t.Context(), store.Account{
		Login: "unit@quillmere.example", Name: "Una Unit", PasswordHash: hash, Active: true,
		Grant: access.Grant{Scope: roster.Scope{Units: []roster.UnitID{ids[unit]}}, Rights: rights},
	})
	require.NoError(t, err)
	require.NoError(t, s.Close())
	i := testkit.Start(t, folder, nil)
	c := testkit.SignedIn(t, i.URL)
	var v importView
	c.Want(http.StatusOK, http.MethodPost, "/api/imports?name=units.csv", []byte(units), &v)
	require.Equal(t, 5, v.Added, "%+v", v)
	load(t, c, v.ID)
	limited := testkit.Stranger(t, i.URL)
	limited.Want(
		http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "unit@quillmere.example", "password": testkit.Password}, nil,
	)
	return i, c, limited
}

type personView struct {
	ID       roster.PersonID
	Name     string
	Sheet    roster.Sheet
	Editable bool
	Guest    bool
	Gaps     []string
	Groups   []string
	In       []struct{ Name, Why string }
	Ties     []struct {
		Name             string
		Barred, Guardian bool
	}
	History []struct {
		Edit    int64
		By      string
		Changes []roster.Change
	}
}

type doneView struct {
	Edit   int64
	Said   string
	People int
	Person roster.PersonID
	Issues []struct{ Field, Reason string }
}

func person(c *testkit.Client, id int) personView {
	var v personView
	c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/people/%d", id), nil, &v)
	return v
}

func save(t *testing.T, c *testkit.Client, s roster.Sheet) doneView {
	t.Helper()
	var d doneView
	c.Want(http.StatusOK, http.MethodPut, fmt.Sprintf("/api/people/%d", s.ID), s, &d)
	return d
}

// Every route asks for the rights that it declares, and refuses an account
// that has none of them in words.
func TestEveryRouteAsksForItsRights(t *testing.T) {
	_, _, powerless := startUnits(t, "Rowing")
	_, description := httpapi.New(httpapi.Options{})
	parameter := regexp.MustCompile(`\{[^}]+\}`)
	open := []string{"/sign-in", "/session", "/session/account", "/session/password", "/session/others/{id}", "/session/factor", "/session/factor/off",
		"/strip", "/today", "/events", "/reading/{token}", "/begin/{token}", "/pass/{token}", "/forgotten"}
	tried := 0
	for path, item := range description.Paths {
		for method, operation := range map[string]bool{
			http.MethodGet: item.Get != nil, http.MethodPost: item.Post != nil, http.MethodPut: item.Put != nil,
			http.MethodDelete: item.Delete != nil,
		} {
			if !operation {
				continue
			}
			// Those of desks are for whoever sits there: TestADeskIsOnlyForThoseWhoSitThere.
			isOpen := path == "/desks" || path == "/terminals" || strings.HasPrefix(path, "/own/") || strings.HasPrefix(path, "/desks/") || strings.HasPrefix(path, "/threads/")
			for _, o := range open {
				isOpen = isOpen || path == o
			}
			if isOpen {
				continue
			}
			tried++
			status, content := powerless.Do(method, "/api"+parameter.ReplaceAllString(path, "1"), "{}")
			assert.Equal(t, http.StatusForbidden, status, "%s %s", method, path)
			assert.Contains(t, string(content), "Your account may not", "%s %s", method, path)
		}
	}
	assert.Greater(t, tried, 50)
}

// An account of another unit neither sees nor touches anything of this one, on
// any route that names a person, a group, a message or a file.
func TestAnAccountStaysWithinItsUnits(t *testing.T) {
	_, office, watch := startUnits(t, "Flood watch", access.Rights...)
	var list struct {
		All, Matching int
		People        []struct{ Name string }
	}
	watch.Want(http.StatusOK, http.MethodGet, "/api/people", nil, &list)
	assert.Equal(t, 2, list.All, "Tomás and Di")
	watch.Want(http.StatusOK, http.MethodPost, "/api/people/search", `{"search":"haddad"}`, &list)
	assert.Zero(t, list.Matching)
	var ids struct{ IDs []int }
	watch.Want(http.StatusOK, http.MethodPost, "/api/people/ids", `{}`, &ids)
	assert.Equal(t, []int{di, tomas}, ids.IDs)
	var found struct{ People []struct{ Name string } }
	watch.Want(http.StatusOK, http.MethodGet, "/api/find?search=rania", nil, &found)
	assert.Empty(t, found.People)
	var beside struct {
		People []struct{ Unit struct{ Name string } }
	}
	watch.Want(http.StatusOK, http.MethodGet, "/api/find?search=tom", nil, &beside)
	require.Len(t, beside.People, 1)
	assert.Equal(t, "Flood watch", beside.People[0].Unit.Name)

	var message struct{ ID, Revision int64 }
	office.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &message)
	var following struct{ ID, Revision int64 } // a draft of the watch that follows the office's message
	watch.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &following)
	watch.Want(http.StatusOK, http.MethodPut, fmt.Sprintf("/api/messages/%d", following.ID), fmt.Sprintf(
		`{"revision":%d,"draft":%s}`, following.Revision,
		strings.Replace(draftOf(`{"kind":"role","role":"field"}`, "mine"), `"subject"`, `"follows":{"message":1,"as":"again"},"subject"`, 1),
	), &following)
	var foreign importView
	office.Want(http.StatusOK, http.MethodPost, "/api/imports?name=x.csv", []byte("Name\nFay\n"), &foreign)
	sheet, err := json.Marshal(person(office, rania).Sheet)
	require.NoError(t, err)
	everything := `"people":[1,2,3]`
	var theirJob, ourJob struct{ ID int64 }
	office.Want(http.StatusOK, http.MethodPost, "/api/jobs", `{"name":"Regatta of theirs","unit":1}`, &theirJob)
	office.Want(http.StatusOK, http.MethodPost, "/api/jobs", `{"name":"Regatta of all"}`, &ourJob)
	job := fmt.Sprintf("/api/jobs/%d", theirJob.ID)
	allJob := fmt.Sprintf("/api/jobs/%d", ourJob.ID)
	office.Want(http.StatusNoContent, http.MethodPost, job+"/template", `{"name":"Regatta"}`, nil)
	for _, r := range []struct {
		method, path, body string
		status             int
	}{
		{http.MethodGet, "/api/people/1", "", 404},
		{http.MethodGet, job, "", 404},
		{http.MethodPut, job, `{"name":"Mine"}`, 404},
		{http.MethodPost, job + "/people", `{"part":"does","people":[4]}`, 404},
		{http.MethodPost, job + "/out", `{"people":[4]}`, 404},
		{http.MethodPost, job + "/close", "", 404},
		{http.MethodPost, job + "/reopen", "", 404},
		{http.MethodPost, job + "/template", `{"name":"Mine"}`, 404},
		{http.MethodPost, job + "/ask", "", 404},
		{http.MethodPost, "/api/jobs", fmt.Sprintf(`{"name":"Mine","unit":2,"like":%d}`, theirJob.ID), 404},
		{http.MethodDelete, "/api/job-templates/1", "", 404},
		{http.MethodPut, allJob, `{"name":"Mine"}`, 403},
		{http.MethodPost, allJob + "/people", `{"part":"does","people":[4]}`, 403},
		{http.MethodPost, allJob + "/close", "", 403},
		{http.MethodPost, allJob + "/template", `{"name":"Mine"}`, 403},
		{http.MethodPost, "/api/jobs", `{"name":"Mine"}`, 422},
		{http.MethodPut, "/api/people/1", string(sheet), 404},
		{http.MethodPost, "/api/people/1/link", "", 404},
		{http.MethodGet, "/api/bench/people/1", "", 404},
		{http.MethodGet, "/api/bench/people/1/faults", "", 404},
		{http.MethodGet, "/api/bench/people/1/files/x", "", 404},
		{http.MethodPost, "/api/bench/people/1/press", `{"key":"x","pressed":"1"}`, 404},
		{http.MethodPost, "/api/bench/people/1/answer", `{"key":"x","text":"Yes"}`, 404},
		{http.MethodPost, "/api/bench/write", `{"channel":"email","from":"rania@example.org","text":"Yes"}`, 404},
		{http.MethodPut, "/api/bench/people/1/faults", `{"address":"rania@example.org","fault":"gone"}`, 404},
		{http.MethodPost, "/api/people/merge", `{"keep":4,"others":[1]}`, 404},
		{http.MethodPost, "/api/people/merge", `{"keep":1,"others":[4]}`, 404},
		{http.MethodPost, "/api/people/remove", `{` + everything + `}`, 422},
		{http.MethodPost, "/api/twins/apart", `{"a":1,"b":4}`, 404},
		{http.MethodGet, "/api/messages/1", "", 404},
		{http.MethodPut, "/api/messages/1", `{"revision":1,"draft":` + draftOf("", "mine") + `}`, 404},
		{http.MethodDelete, "/api/messages/1", "", 404},
		{http.MethodPost, "/api/messages/1/send", `{"revision":1}`, 404},
		{http.MethodPost, "/api/messages/1/stop", "", 404},
		{http.MethodPost, "/api/messages/1/late", "", 404},
		{http.MethodPost, "/api/messages/1/pause", "", 404},
		{http.MethodPost, "/api/messages/1/resume", "", 404},
		{http.MethodGet, "/api/messages/1/record", "", 404},
		{http.MethodGet, "/api/messages/1/recipients", "", 404},
		{http.MethodGet, "/api/messages/1/recipients/1", "", 404},
		{http.MethodGet, "/api/messages/1/marks", "", 404},
		{http.MethodGet, "/api/messages/1/left-out", "", 404},
		{http.MethodGet, "/api/messages/1/needs", "", 404},
		{http.MethodGet, "/api/messages/1/progress", "", 404},
		{http.MethodGet, "/api/messages/1/board", "", 404},
		{http.MethodPost, "/api/messages/1/answers", `{"person":4,"answer":1}`, 404},
		{http.MethodPost, "/api/messages/1/needs", `{"people":[4],"done":true}`, 404},
		{http.MethodDelete, "/api/reports/1", "", 404},
		{http.MethodPost, "/api/messages/1/next", `{"recipients":[1]}`, 404},
		{http.MethodPost, "/api/messages/1/follow", `{"as":"again"}`, 404},
		{http.MethodPost, fmt.Sprintf("/api/messages/%d/send", following.ID), fmt.Sprintf(`{"revision":%d}`, following.Revision), 422},
		{http.MethodDelete, fmt.Sprintf("/api/messages/%d", following.ID), "", 204},
		{http.MethodPost, "/api/plan", strings.Replace(draftOf("", "mine"), `"subject"`, `"follows":{"message":1,"as":"again"},"subject"`, 1), 422},
		{http.MethodPost, "/api/messages/1/decide", `{"again":true}`, 404},
		{http.MethodPost, "/api/messages", `{"copyOf":1}`, 404},
		{http.MethodGet, fmt.Sprintf("/api/imports/%d", foreign.ID), "", 404},
		{http.MethodPut, fmt.Sprintf("/api/imports/%d", foreign.ID), `{"meanings":["full name"],"markLeft":false,"unit":0}`, 404},
		{http.MethodPost, fmt.Sprintf("/api/imports/%d/load", foreign.ID), "", 404},
		{http.MethodGet, fmt.Sprintf("/api/imports/%d/refused", foreign.ID), "", 404},
		{http.MethodPost, fmt.Sprintf("/api/imports/%d/mapping", foreign.ID), `{"name":"x"}`, 404},
		{http.MethodPost, "/api/edits/1/undo", "", 404},
		{http.MethodPut, "/api/groups/1", `{"name":"Mine","kind":"picked"}`, 403},
		{http.MethodDelete, "/api/groups/1", "", 403},
		{http.MethodPost, "/api/groups/1/fill", `{"people":[4],"take":"add"}`, 403},
		{http.MethodPost, "/api/groups", `{"name":"Mine","kind":"picked"}`, 422},
		{http.MethodPost, "/api/people", `{"givenName":"Fay","roles":[],"status":"active","addresses":[],"ties":[],"groups":[]}`, 422},
		{http.MethodPost, "/api/people", `{"givenName":"Fay","roles":[],"status":"active","addresses":[],"ties":[],"groups":[],"unit":1}`, 422},
		{http.MethodPost, "/api/people/alter", `{"people":[4],"alteration":{"do":"unit"}}`, 422},
		{http.MethodPost, "/api/units", `{"name":"Mine"}`, 422},
		{http.MethodPost, "/api/units", `{"name":"Mine","parent":1}`, 422},
		{http.MethodDelete, "/api/units/1", "", 404},
		{http.MethodPost, "/api/attributes", `{"name":"Mine","kind":"text"}`, 403},
		{http.MethodPut, "/api/settings", `{"roles":[],"languages":[],"updatesWait":true}`, 403},
		{http.MethodPost, "/api/accounts", `{"id":1,"login":"a@example.org","name":"A","duty":"","active":true,"scope":{"whole":false,"units":[2]},"rights":[]}`, 404},
		{http.MethodPost, "/api/accounts", `{"login":"a@example.org","name":"A","duty":"","active":true,"password":"otter gravel teapot","scope":{"whole":true,"units":[]},"rights":[]}`, 422},
	} {
		var body any
		if r.body != "" {
			body = r.body
		}
		status, content := watch.Do(r.method, r.path, body)
		assert.Equal(t, r.status, status, "%s %s: %s", r.method, r.path, content)
		assert.NotContains(t, string(content), "Rania", "%s %s", r.method, r.path)
	}

	// What acts on many leaves others out instead.
	var d doneView
	watch.Want(
		http.StatusOK, http.MethodPost, "/api/people/alter",
		`{"people":[1,2,3,4,5],"alteration":{"do":"language","value":"en"}}`, &d,
	)
	assert.Equal(t, 2, d.People)
	status, file := watch.Do(
		http.MethodPost, "/api/export", `{`+everything+`,"what":"people","format":"csv","columns":[]}`,
	)
	assert.Equal(t, http.StatusOK, status)
	assert.NotContains(t, string(file), "Haddad")
	var sheets struct{ Households []any }
	watch.Want(http.StatusOK, http.MethodPost, "/api/gaps/sheets", `{`+everything+`}`, &sheets)
	assert.Empty(t, sheets.Households)
	assert.Equal(t, "", person(office, rania).Sheet.Language, "Rania is as she was")

	var accounts []struct{ Login string }
	watch.Want(http.StatusOK, http.MethodGet, "/api/accounts", nil, &accounts)
	require.Len(t, accounts, 1)
	var messages struct{ Messages []any }
	watch.Want(http.StatusOK, http.MethodGet, "/api/messages", nil, &messages)
	assert.Empty(t, messages.Messages)
}

func TestGroupsThatReachBeyondAreMarkedAndGuestsAreSeen(t *testing.T) {
	_, office, rowing := startUnits(t, "Rowing", access.Rights...)
	var groups []struct {
		Name                  string
		People, Beyond, Depth int
		Editable              bool
	}
	rowing.Want(http.StatusOK, http.MethodGet, "/api/groups", nil, &groups)
	for _, g := range groups {
		if g.Name == "Everybody" {
			assert.Equal(t, []int{2, 1}, []int{g.People, g.Beyond}, "Tomás is seen as a guardian, Di is not")
			assert.False(t, g.Editable)
		}
	}
	guest := person(rowing, tomas)
	assert.True(t, guest.Guest)
	assert.False(t, guest.Editable)
	status, content := rowing.Do(http.MethodPut, "/api/people/4", guest.Sheet)
	assert.Equal(t, http.StatusForbidden, status, "%s", content)
	assert.Contains(t, string(content), "belongs to a unit beyond yours")

	// A message to the group says whom it leaves out, and goes to the rest.
	var p struct {
		Recipients int
		Parts      []struct{ Detail string }
	}
	rowing.Want(http.StatusOK, http.MethodPost, "/api/plan", draftOf(`{"kind":"group","group":3}`, "Hello"), &p)
	assert.Equal(t, 2, p.Recipients)
	assert.Contains(t, p.Parts[0].Detail, "1 more is beyond your units")

	// Saving somebody does not lose what the account does not see.
	var hidden struct{ ID int }
	office.Want(http.StatusOK, http.MethodPost, "/api/groups", `{"name":"Night watch","kind":"picked","unit":2}`, &hidden)
	office.Want(
		http.StatusOK, http.MethodPost, fmt.Sprintf("/api/groups/%d/fill", hidden.ID), `{"people":[3],"take":"add"}`, nil,
	)
	mine := person(rowing, naya)
	assert.NotContains(t, mine.Groups, "Night watch")
	mine.Sheet.Notes = "seen"
	d := save(t, rowing, mine.Sheet)
	assert.Contains(t, person(office, naya).Groups, "Night watch")
	rowing.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/edits/%d/undo", d.Edit), nil, nil)
	assert.Contains(t, person(office, naya).Groups, "Night watch", "nor does undoing it")
}

func TestEmergenciesNeedTheirRight(t *testing.T) {
	_, _, c := startUnits(t, "Rowing", access.SeePeople, access.Write)
	var m struct{ ID, Revision int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	path := fmt.Sprintf("/api/messages/%d", m.ID)
	draft := strings.Replace(draftOf(`{"kind":"role","role":"staff"}`, "Out!"), "routine", "emergency", 1)
	var saved struct{ Revision int64 }
	c.Want(http.StatusOK, http.MethodPut, path, fmt.Sprintf(`{"revision":%d,"draft":%s}`, m.Revision, draft), &saved)
	assert.Contains(
		t,
		c.Problem(http.StatusUnprocessableEntity, http.MethodPost, path+"/send", fmt.Sprintf(
			`{"revision":%d}`, saved.Revision,
		)),
		"may not write emergencies",
	)
}

func TestAPersonIsAddedEditedAndUndone(t *testing.T) {
	_, c := start(t)
	var d doneView
	c.Want(http.StatusOK, http.MethodPost, "/api/people", `{"givenName":"Fay","familyName":"Venn","roles":["staff"],"status":"active",
		"addresses":[{"channel":"text","value":"07700 900777"},{"channel":"voice","value":"07700 900777"}],
		"ties":[{"guardian":0,"dependent":5,"receives":true,"barred":false}],"groups":[4]}`, &d)
	fay := person(c, int(d.Person))
	assert.Equal(t, "+447700900777", fay.Sheet.Addresses[0].Value)
	assert.Equal(t, []string{"Coaches"}, fay.Groups)
	assert.Equal(t, "picked", fay.In[0].Why)
	require.Len(t, fay.Ties, 1)
	assert.NotEmpty(t, d.Issues, "a number of no network is doubted and kept")

	sheet := fay.Sheet
	sheet.Language = "polski"
	d = save(t, c, sheet)
	assert.Equal(t, "changed Fay Venn", d.Said)
	assert.Equal(t, "pl", person(c, int(fay.ID)).Sheet.Language)
	same := person(c, int(fay.ID)).Sheet
	assert.Zero(t, save(t, c, same).Edit, "what changes nothing leaves no trace")

	var undone struct{ Said string }
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/edits/%d/undo", d.Edit), nil, &undone)
	assert.Equal(t, "Undone: changed Fay Venn.", undone.Said)
	assert.Empty(t, person(c, int(fay.ID)).Sheet.Language)
	c.Want(http.StatusConflict, http.MethodPost, fmt.Sprintf("/api/edits/%d/undo", d.Edit), nil, nil)
	history := person(c, int(fay.ID)).History
	assert.Equal(t, "Hugo Farrowby", history[0].By)
}

func TestTheSecondOfTwoAdministratorsIsShownWhatChanged(t *testing.T) {
	_, c := start(t)
	first, second := person(c, rania).Sheet, person(c, rania).Sheet
	first.FamilyName = "Al-Haddad"
	save(t, c, first)
	second.Notes = "typed meanwhile"
	status, content := c.Do(http.MethodPut, "/api/people/1", second)
	require.Equal(t, http.StatusConflict, status, "%s", content)
	assert.Contains(t, string(content), "Hugo Farrowby changed Haddad to Al-Haddad")
	assert.Empty(t, person(c, rania).Sheet.Notes, "nothing was overwritten")
	second.Version = person(c, rania).Sheet.Version
	save(t, c, second)
}

func TestARefusedPersonSaysFieldByField(t *testing.T) {
	_, c := start(t)
	status, content := c.Do(http.MethodPost, "/api/people", `{"givenName":"","roles":[],"status":"active","ties":[{"guardian":0,"dependent":0,"receives":true,"barred":false}],"groups":[99],
		"addresses":[{"channel":"email","value":"a@@b"},{"channel":"text","value":"07700"}]}`)
	require.Equal(t, http.StatusUnprocessableEntity, status)
	var problem struct {
		Detail string
		Errors []struct{ Location, Message string }
	}
	require.NoError(t, json.Unmarshal(content, &problem))
	assert.Contains(t, problem.Detail, "Nothing was saved")
	var places []string
	for _, e := range problem.Errors {
		places = append(places, e.Location)
	}
	assert.Equal(t, []string{"givenName", "addresses[0]", "addresses[1]", "ties[0]", "groups[0]"}, places)
	var remarks []struct{ Field string }
	c.Want(
		http.StatusOK, http.MethodPost, "/api/people/check",
		`{"givenName":"","roles":[],"status":"active","addresses":[],"ties":[],"groups":[]}`, &remarks,
	)
	assert.Len(t, remarks, 1)
}

func TestManyAreChangedAtOnce(t *testing.T) {
	_, c := start(t)
	var d doneView
	c.Want(
		http.StatusOK, http.MethodPost, "/api/people/alter", `{"people":[1,2,3],"alteration":{"do":"join","group":4}}`, &d,
	)
	assert.Equal(t, "3 people added to Coaches", d.Said)
	var taken struct {
		People, Addresses, Ties int
		Alone                   struct{ All int }
	}
	c.Want(http.StatusOK, http.MethodPost, "/api/people/removal", `{"people":[1]}`, &taken)
	assert.Equal(t, 1, taken.Alone.All, "nobody would receive for Sami")
	c.Want(http.StatusOK, http.MethodPost, "/api/people/remove", `{"people":[1]}`, &d)
	assert.Equal(t, "removed Rania Haddad", d.Said)
	c.Want(http.StatusNotFound, http.MethodGet, "/api/people/1", nil, nil)
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/edits/%d/undo", d.Edit), nil, nil)
	assert.Equal(t, "Rania Haddad", person(c, rania).Name)
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/people/remove", `{"people":[999]}`),
		"Nobody is chosen",
	)
	assert.Contains(
		t,
		c.Problem(
			http.StatusUnprocessableEntity, http.MethodPost, "/api/people/alter",
			`{"people":[1],"alteration":{"do":"role","value":"pirate"}}`,
		),
		"is no role here",
	)
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/people/merge", `{"keep":1,"others":[1]}`),
		"with themselves",
	)
	var edits []struct{ Said string }
	c.Want(http.StatusOK, http.MethodGet, "/api/edits", nil, &edits)
	assert.Equal(t, "undid: removed Rania Haddad", edits[0].Said)
}

func TestFiltersStackAndBecomeAGroup(t *testing.T) {
	_, c := start(t)
	rule := `[{"on":"role","test":"is","value":"guardian"},{"on":"channel","test":"is","value":"text"}]`
	var list struct {
		Matching int
		Filters  []struct {
			Words  string
			Leaves int
		}
	}
	c.Want(http.StatusOK, http.MethodPost, "/api/people/search", `{"rule":`+rule+`}`, &list)
	assert.Equal(t, 2, list.Matching)
	assert.Equal(t, 4, list.Filters[0].Leaves)
	assert.Equal(t, "can be reached by text", list.Filters[1].Words)

	c.Want(http.StatusOK, http.MethodPost, "/api/filters", `{"name":"Texted","rule":`+rule+`}`, nil)
	var group struct{ ID int }
	c.Want(http.StatusOK, http.MethodPost, "/api/groups", `{"name":"Texted","kind":"rule","rule":`+rule+`}`, &group)
	var preview struct {
		People        int
		Joins, Leaves struct {
			All    int
			People []struct{ Name string }
		}
	}
	c.Want(
		http.StatusOK, http.MethodPost, "/api/groups/rule",
		fmt.Sprintf(`{"group":%d,"rule":[{"on":"role","test":"is","value":"staff"}]}`, group.ID), &preview,
	)
	assert.Equal(t, []int{1, 1, 2}, []int{preview.People, preview.Joins.All, preview.Leaves.All})
	assert.Equal(t, "Naya Osei", preview.Joins.People[0].Name)

	// The group keeps itself up to date.
	sheet := person(c, 4).Sheet // Tuan, who has no number
	sheet.Addresses = append(sheet.Addresses, roster.Address{Channel: roster.Text, Value: "07700 900600"})
	save(t, c, sheet)
	var inside struct{ All int }
	c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/groups/%d/people", group.ID), nil, &inside)
	assert.Equal(t, 3, inside.All)
}

func TestGroupsAreRefusedInWords(t *testing.T) {
	_, c := start(t)
	var attribute struct {
		Attributes []struct{ ID int }
	}
	c.Want(http.StatusOK, http.MethodPost, "/api/attributes", `{"name":"Level","kind":"number"}`, &attribute)
	for _, b := range []struct{ name, method, path, body, says string }{
		{"a circle", http.MethodPut, "/api/groups/2", `{"name":"U14","kind":"picked","inside":[1]}`, "circle: U14 › Junior squads › U14"},
		{"itself", http.MethodPut, "/api/groups/2", `{"name":"U14","kind":"picked","inside":[2]}`, "circle: U14 › U14"},
		{"a name with a separator", http.MethodPost, "/api/groups", `{"name":"A > B","kind":"picked"}`, "cannot hold ; > |"},
		{"a name that is taken", http.MethodPost, "/api/groups", `{"name":"COACHES","kind":"picked"}`, "called “COACHES” already"},
		{"no name", http.MethodPost, "/api/groups", `{"name":" ","kind":"picked"}`, "needs a name"},
		{"no rule", http.MethodPost, "/api/groups", `{"name":"R","kind":"rule"}`, "at least one condition"},
		{"a rule on nothing", http.MethodPost, "/api/groups", `{"name":"R","kind":"rule","rule":[{"on":"attribute","test":"is","id":99,"value":"x"}]}`, "no longer exists"},
		{"another kind", http.MethodPut, "/api/groups/4", `{"name":"Coaches","kind":"job"}`, "stays picked"},
		{"a job that ends first", http.MethodPost, "/api/groups", `{"name":"J","kind":"job","starts":"2026-11-24T10:00:00Z","ends":"2026-11-24T09:00:00Z"}`, "ends before it starts"},
		{"a broken number", http.MethodPost, "/api/groups", `{"name":"N","kind":"picked","identity":{"number":"ask Hugo"}}`, "cannot be read as a telephone number"},
		{"an order with one twice", http.MethodPost, "/api/groups/order", `{"groups":[1,1]}`, "names a group twice"},
	} {
		t.Run(b.name, func(t *testing.T) {
			assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, b.method, b.path, b.body), b.says)
		})
	}
	// A rule that looks at an attribute keeps it from being deleted.
	id := attribute.Attributes[0].ID
	c.Want(
		http.StatusOK, http.MethodPost, "/api/groups",
		fmt.Sprintf(`{"name":"High","kind":"rule","rule":[{"on":"attribute","test":"more","id":%d,"value":"3"}]}`, id), nil,
	)
	assert.Contains(
		t, c.Problem(http.StatusUnprocessableEntity, http.MethodDelete, fmt.Sprintf("/api/attributes/%d", id), nil),
		"the group “High” looks at it",
	)
}

func TestAGroupIsFilledFromEverywhere(t *testing.T) {
	_, c := start(t)
	var group struct{ ID int }
	c.Want(http.StatusOK, http.MethodPost, "/api/groups", `{"name":"","unnamed":true,"kind":"picked"}`, &group)
	path := fmt.Sprintf("/api/groups/%d/fill", group.ID)
	var matched struct {
		People  []int
		Unclear []struct {
			Line          int
			Text, Problem string
		}
	}
	c.Want(
		http.StatusOK, http.MethodPost, "/api/groups/match", `{"text":"07700 900417; Piotr Zielony\nask Hugo"}`, &matched,
	)
	assert.Equal(t, []int{1, 2}, matched.People)
	assert.Equal(t, "ask Hugo", matched.Unclear[0].Text)
	c.Want(
		http.StatusOK, http.MethodPost, "/api/groups/match-file", []byte("Ref,Phone\nC1,\n,07700 900188\n,nobody\n"),
		&matched,
	)
	assert.Equal(t, []int{7, 3}, matched.People)
	assert.Equal(t, 4, matched.Unclear[0].Line)

	members := func() []string {
		var inside struct{ People []struct{ Name string } }
		c.Want(http.StatusOK, http.MethodGet, fmt.Sprintf("/api/groups/%d/people", group.ID), nil, &inside)
		var names []string
		for _, p := range inside.People {
			names = append(names, p.Name)
		}
		return names
	}
	var d doneView
	c.Want(http.StatusOK, http.MethodPost, path, `{"people":[1,2,7],"take":"add"}`, &d)
	assert.Equal(t, []string{"Rania Haddad", "Naya Osei", "Piotr Zielony"}, members())
	var groups []struct {
		ID   int
		Name string
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/groups", nil, &groups)
	assert.Equal(
		t, "Rania Haddad, Naya Osei, Piotr Zielony", groups[len(groups)-1].Name,
		"named after its people until somebody names it",
	)
	c.Want(http.StatusOK, http.MethodPost, path, `{"people":[],"take":"only","from":4}`, &d)
	assert.Equal(t, []string{"Naya Osei"}, members(), "only those who are in both")
	c.Want(http.StatusOK, http.MethodPost, path, `{"people":[7],"take":"remove"}`, &d)
	assert.Empty(t, members())
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/edits/%d/undo", d.Edit), nil, nil)
	assert.Equal(t, []string{"Naya Osei"}, members())

	var use struct {
		Groups, Messages []string
		People           int
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/groups/2/use", nil, &use)
	assert.Equal(t, []string{"Junior squads"}, use.Groups)
}

func TestTwinsAreMergedOrToldApart(t *testing.T) {
	i := testkit.Start(
		t,
		testkit.Folder(
			t, "Id,Name,Email\n1,Łukasz Kłos,k@example.org\n2,Lukasz Klos,k@example.org\n3,Wren Larkham,\n4,Wren Larkham,\n",
			nil,
		),
		nil,
	)
	c := testkit.SignedIn(t, i.URL)
	var twins struct {
		All   int
		Pairs []struct {
			A, B    struct{ ID int }
			Reasons []string
			Likely  bool
		}
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/twins", nil, &twins)
	require.Equal(t, 2, twins.All)
	assert.True(t, twins.Pairs[0].Likely)
	assert.False(t, twins.Pairs[1].Likely)
	c.Want(
		http.StatusNoContent, http.MethodPost, "/api/twins/apart",
		fmt.Sprintf(`{"a":%d,"b":%d}`, twins.Pairs[1].B.ID, twins.Pairs[1].A.ID), nil,
	)
	var d doneView
	c.Want(
		http.StatusOK, http.MethodPost, "/api/people/merge",
		fmt.Sprintf(`{"keep":%d,"others":[%d]}`, twins.Pairs[0].A.ID, twins.Pairs[0].B.ID), &d,
	)
	assert.Contains(t, d.Said, "merged 2 people into")
	c.Want(http.StatusOK, http.MethodGet, "/api/twins", nil, &twins)
	assert.Zero(t, twins.All)
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/edits/%d/undo", d.Edit), nil, nil)
	c.Want(http.StatusOK, http.MethodGet, "/api/twins", nil, &twins)
	assert.Equal(t, 1, twins.All)
}

func TestAPersonalLinkWaitsForAYes(t *testing.T) {
	i, c := start(t)
	var link struct{ Path string }
	c.Want(http.StatusOK, http.MethodPost, "/api/people/2/link", nil, &link)
	holder := testkit.Stranger(t, i.URL)
	path := "/api" + link.Path + "/details"
	var visit struct {
		Name    string
		Words   struct{ Tag string }
		Details struct {
			Addresses []map[string]any
			Language  string
		}
	}
	holder.Want(http.StatusOK, http.MethodGet, path, nil, &visit)
	assert.Equal(t, "Piotr", visit.Name)
	assert.Equal(t, "pl", visit.Words.Tag, "in their own language")
	require.Len(t, visit.Details.Addresses, 1)

	status, content := holder.Do(
		http.MethodPut, path,
		`{"addresses":[{"value":"p@@x","mail":true,"texts":false,"calls":false,"noRoutine":false}],"language":"pl","wish":""}`,
	)
	assert.Equal(t, http.StatusUnprocessableEntity, status, "%s", content)
	var sent struct{ Waits bool }
	holder.Want(
		http.StatusOK, http.MethodPut, path,
		`{"addresses":[{"value":"07700 900419","mail":false,"texts":true,"calls":false,"noRoutine":true},{"value":"piotr@example.org","mail":true,"texts":false,"calls":false,"noRoutine":false}],"language":"en","wish":"text"}`,
		&sent,
	)
	assert.True(t, sent.Waits)
	assert.Equal(t, "pl", person(c, 2).Sheet.Language, "nothing changes before the yes")

	var waiting []struct {
		ID      int64
		Name    string
		Changes []roster.Change
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/updates", nil, &waiting)
	require.Len(t, waiting, 1)
	assert.Contains(t, waiting[0].Changes, roster.Change{What: "wish", To: "text"})
	accept := fmt.Sprintf("/api/updates/%d/accept", waiting[0].ID)
	c.Want(http.StatusOK, http.MethodPost, accept, nil, nil)
	got := person(c, 2).Sheet
	assert.Equal(t, "en", got.Language)
	assert.Equal(t, "+447700900419", got.Addresses[0].Value)
	assert.True(t, got.Addresses[0].DeclinesRoutine)
	c.Want(http.StatusConflict, http.MethodPost, accept, nil, nil)

	for _, broken := range []string{"/api" + link.Path[:len(link.Path)-3], "/api/own/nothing", "/api" + link.Path + "AA"} {
		assert.Contains(t, holder.Problem(http.StatusNotFound, http.MethodGet, broken, nil), "no longer works")
	}
	c.Want(
		http.StatusOK, http.MethodPut, "/api/settings", `{"roles":["safeguarding"],"languages":["pl"],"updatesWait":false}`,
		nil,
	)
	holder.Want(http.StatusOK, http.MethodPut, path, `{"addresses":[],"language":"pl","wish":""}`, &sent)
	assert.False(t, sent.Waits)
	assert.Empty(t, person(c, 2).Sheet.Addresses)
}

func TestADeviceThatIsNone(t *testing.T) {
	i, c := start(t)
	var made struct{ Path string }
	c.Want(http.StatusOK, http.MethodPost, "/api/people/2/link", nil, &made)
	holder, path := testkit.Stranger(t, i.URL), "/api"+made.Path+"/details"
	good := standin.Device("Piotr’s phone")
	for name, d := range map[string]carrier.Device{
		"not by https":        {Endpoint: "http://push.example/1", P256dh: good.P256dh, Auth: good.Auth},
		"within our network":  {Endpoint: "https://127.0.0.1/1", P256dh: good.P256dh, Auth: good.Auth},
		"with another's name": {Endpoint: "https://x:y@push.example/1", P256dh: good.P256dh, Auth: good.Auth},
		"no URL":              {Endpoint: "https://push example\n", P256dh: good.P256dh, Auth: good.Auth},
		"no key":              {Endpoint: good.Endpoint, Auth: good.Auth},
		"a key off the curve": {Endpoint: good.Endpoint, P256dh: good.P256dh[:80] + "AAAAAAA", Auth: good.Auth},
		"a short secret":      {Endpoint: good.Endpoint, P256dh: good.P256dh, Auth: "AAAA"},
	} {
		t.Run(name, func(t *testing.T) {
			said := editing.Details{
				Addresses: []editing.OwnAddress{},
				Device:    &editing.OwnDevice{Kind: "phone", Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth},
			}
			assert.Contains(
				t, holder.Problem(http.StatusUnprocessableEntity, http.MethodPut, path, said), "This device cannot be connected",
			)
		})
	}
	status, _ := holder.Do(http.MethodPost, "/carrier/pushes/NOBODY", `{"state":"arrived"}`)
	assert.Equal(t, http.StatusNotFound, status)
	for _, junk := range []string{`{"state":"held"}`, `{`, strings.Repeat("x", 2000)} {
		status, _ := holder.Do(http.MethodPost, "/carrier/pushes/NOBODY", junk)
		assert.Equal(t, http.StatusUnprocessableEntity, status, junk)
	}
}

func TestSheetsAskHouseholdsInTheirLanguage(t *testing.T) {
	_, c := start(t)
	var sheets struct {
		Households []struct {
			Words struct {
				Tag string
				Rtl bool
			}
			People []struct {
				Name  string
				About []string
				Link  string
			}
		}
	}
	c.Want(http.StatusOK, http.MethodPost, "/api/gaps/sheets", `{"people":[5]}`, &sheets)
	require.Len(t, sheets.Households, 1)
	h := sheets.Households[0]
	assert.Equal(t, "ar", h.Words.Tag)
	assert.True(t, h.Words.Rtl)
	assert.Equal(t, "Rania Haddad", h.People[0].Name)
	assert.Equal(t, []string{"Sami Haddad"}, h.People[0].About)
	assert.NotEmpty(t, h.People[0].Link)
}

func TestAccountsAndTheirSessions(t *testing.T) {
	i, office, una := startUnits(t, "Rowing", access.SeePeople)
	var accounts []struct {
		ID    int64
		Login string
		Self  bool
	}
	office.Want(http.StatusOK, http.MethodGet, "/api/accounts", nil, &accounts)
	require.Len(t, accounts, 2)
	off := fmt.Sprintf(
		`{"id":%d,"login":"unit@quillmere.example","name":"Una","duty":"","active":false,"scope":{"whole":false,"units":[1]},"rights":["see-people"]}`,
		accounts[1].ID,
	)
	una.Want(http.StatusOK, http.MethodGet, "/api/session", nil, nil)
	office.Want(http.StatusOK, http.MethodPost, "/api/accounts", off, nil)
	una.Want(http.StatusUnauthorized, http.MethodGet, "/api/session", nil, nil)
	c := testkit.Stranger(t, i.URL)
	c.Want(
		http.StatusUnauthorized, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "unit@quillmere.example", "password": testkit.Password}, nil,
	)
	for says, body := range map[string]string{
		"lock yourself out": fmt.Sprintf(
			`{"id":%d,"login":%q,"name":"H","duty":"","active":false,"scope":{"whole":true,"units":[]},"rights":["change-settings"]}`,
			accounts[0].ID, testkit.Login,
		),
		"needs at least 10": `{"login":"b@example.org","name":"B","duty":"","active":true,"password":"short","scope":{"whole":true,"units":[]},"rights":[]}`,
		"an account": fmt.Sprintf(
			`{"login":%q,"name":"B","duty":"","active":true,"password":"otter gravel teapot","scope":{"whole":true,"units":[]},"rights":[]}`,
			strings.ToUpper(testkit.Login),
		),
		"is no right":  `{"login":"b@example.org","name":"B","duty":"","active":true,"password":"otter gravel teapot","scope":{"whole":true,"units":[]},"rights":["fly"]}`,
		"needs a name": `{"login":"nobody","name":"B","duty":"","active":true,"password":"otter gravel teapot","scope":{"whole":true,"units":[]},"rights":[]}`,
	} {
		assert.Contains(t, office.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/accounts", body), says)
	}
}

func TestSettingsAreRefusedInWords(t *testing.T) {
	_, c := start(t)
	c.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"Rowing"}`, nil)
	c.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"Juniors","parent":1}`, nil)
	c.Want(http.StatusOK, http.MethodPost, "/api/people/alter", `{"people":[1],"alteration":{"do":"unit","unit":2}}`, nil)
	c.Want(
		http.StatusOK, http.MethodPost, "/api/attributes", `{"name":"Swim","kind":"choice","choices":["passed","due"]}`, nil,
	)
	c.Want(
		http.StatusOK, http.MethodPost, "/api/people/alter",
		`{"people":[1],"alteration":{"do":"attribute","attribute":1,"value":"due"}}`, nil,
	)
	for _, b := range []struct{ method, path, body, says string }{
		{http.MethodPost, "/api/units", `{"name":"rowing"}`, "here already"},
		{http.MethodPost, "/api/units", `{"id":1,"name":"Rowing","parent":2}`, "would be inside itself"},
		{http.MethodDelete, "/api/units/2", "", "still belong to"},
		{http.MethodPost, "/api/attributes", `{"name":"SWIM","kind":"text"}`, "there is an attribute"},
		{http.MethodPost, "/api/attributes", `{"name":"Pick","kind":"choice"}`, "something to choose from"},
		{http.MethodPost, "/api/attributes", `{"id":1,"name":"Swim","kind":"choice","choices":["passed"]}`, "people still have “due”"},
		{http.MethodPut, "/api/settings", `{"roles":["a;b"],"languages":[],"updatesWait":true}`, "cannot be a role"},
		{http.MethodPut, "/api/settings", `{"roles":[],"languages":["river"],"updatesWait":true}`, "is no language"},
	} {
		var body any
		if b.body != "" {
			body = b.body
		}
		assert.Contains(
			t, c.Problem(http.StatusUnprocessableEntity, b.method, b.path, body), b.says, "%s %s %s", b.method, b.path, b.body,
		)
	}
	c.Want(
		http.StatusOK, http.MethodPut, "/api/settings",
		`{"roles":["Safeguarding"],"languages":["polski","pl"],"updatesWait":true}`, nil,
	)
	c.Want(
		http.StatusOK, http.MethodPost, "/api/people/alter",
		`{"people":[1],"alteration":{"do":"role","value":"safeguarding"}}`, nil,
	)
	assert.Contains(
		t,
		c.Problem(
			http.StatusUnprocessableEntity, http.MethodPut, "/api/settings", `{"roles":[],"languages":[],"updatesWait":true}`,
		),
		"people still have the role safeguarding",
	)
}

func TestImportsMarkKeepAndUndo(t *testing.T) {
	i, c := start(t)
	file := []byte("Nr,Wer,Art\nG1,Rania Haddad,guardian\nG9,Fay Venn,guardian\nG9,Fay Venn,guardian\n")
	var v struct {
		importView
		Mapping    string
		MissingAll int
		Missing    []struct{ Name string }
		Edit       int64
	}
	c.Want(http.StatusOK, http.MethodPost, "/api/imports?name=a.csv", file, &v)
	path := fmt.Sprintf("/api/imports/%d", v.ID)
	c.Want(
		http.StatusOK, http.MethodPut, path, `{"meanings":["external id","full name","roles"],"markLeft":true,"unit":0}`, &v,
	)
	assert.Equal(t, []int{1, 3}, []int{v.Added, v.MissingAll}, "Piotr, Lena and Tuan are guardians too")
	status, refused := c.Do(http.MethodGet, path+"/refused", nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, string(refused), "line 4,the same person as on line 3,G9,Fay Venn,guardian")
	c.Want(http.StatusOK, http.MethodPost, path+"/mapping", `{"name":"The old program"}`, &v)
	assert.Equal(t, "The old program", v.Mapping)
	assert.Contains(t, load(t, c, v.ID).Result, "3 marked as left")
	assert.Equal(t, roster.Left, person(c, 2).Sheet.Status)

	c.Want(http.StatusOK, http.MethodPost, "/api/imports?name=b.csv", file, &v)
	assert.Equal(t, "The old program", v.Mapping, "a file with the same headings is understood the same way")
	var last struct {
		Edit     int64
		FileName string
	}
	c.Want(http.StatusOK, http.MethodGet, "/api/imports/last", nil, &last)
	assert.Equal(t, "a.csv", last.FileName)
	c.Want(http.StatusOK, http.MethodPost, fmt.Sprintf("/api/edits/%d/undo", last.Edit), nil, nil)
	assert.Equal(t, roster.Active, person(c, 2).Sheet.Status)
	assert.Equal(t, 8, peopleCount(c))
	r, err := i.Store.Roster(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 8, r.Len())
}

func TestExportsReadBackWithoutAChange(t *testing.T) {
	_, c := start(t)
	var ids struct{ IDs []int }
	c.Want(http.StatusOK, http.MethodPost, "/api/people/ids", `{}`, &ids)
	everybody := strings.Join(strings.Fields(fmt.Sprint(ids.IDs)), ",")
	for _, format := range []string{"csv", "xlsx", "vcf"} {
		status, file := c.Do(
			http.MethodPost, "/api/export", `{"people":`+everybody+`,"what":"people","format":"`+format+`","columns":[]}`,
		)
		require.Equal(t, http.StatusOK, status)
		var v importView
		c.Want(http.StatusOK, http.MethodPost, "/api/imports?name=back."+format, file, &v)
		assert.Equal(t, []int{0, 0, 8, 0, 0}, []int{v.Added, v.Changed, v.Unchanged, v.RefusedAll, v.NotedAll}, format)
	}
	status, groups := c.Do(http.MethodPost, "/api/export", `{"people":[],"what":"groups","format":"csv","columns":[]}`)
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, string(groups), "U14,picked,Junior squads")
	status, addresses := c.Do(
		http.MethodPost, "/api/export", `{"people":`+everybody+`,"what":"addresses","format":"csv","columns":[]}`,
	)
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, string(addresses), "G4,Tuan Vo,email,tuan@vo.example,email,untried,,,,routine")
	c.Want(
		http.StatusUnprocessableEntity, http.MethodPost, "/api/export",
		`{"people":[],"what":"groups","format":"vcf","columns":[]}`, nil,
	)
}

func TestUnitsInUseStay(t *testing.T) {
	_, office, _ := startUnits(t, "Flood watch", access.SeePeople)
	assert.Contains(
		t, office.Problem(http.StatusUnprocessableEntity, http.MethodDelete, "/api/units/2", nil),
		"the account of Una Unit reaches “Flood watch”",
	)
	assert.Contains(
		t, office.Problem(http.StatusUnprocessableEntity, http.MethodDelete, "/api/units/1", nil), "still belong to “Rowing”",
	)
	assert.Contains(t, office.Problem(http.StatusNotFound, http.MethodDelete, "/api/units/9", nil), "does not exist")

	// Somebody comes back to a unit that is gone: refused in words.
	office.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"Sailing"}`, nil)
	office.Want(
		http.StatusOK, http.MethodPost, "/api/people/alter", `{"people":[3],"alteration":{"do":"unit","unit":3}}`, nil,
	)
	var d doneView
	office.Want(http.StatusOK, http.MethodPost, "/api/people/remove", `{"people":[3]}`, &d)
	office.Want(http.StatusNoContent, http.MethodDelete, "/api/units/3", nil, nil)
	assert.Contains(
		t, office.Problem(http.StatusConflict, http.MethodPost, fmt.Sprintf("/api/edits/%d/undo", d.Edit), nil),
		"deleted in the meantime",
	)
}

func TestAwayEndsByItself(t *testing.T) {
	_, c := start(t)
	yesterday := time.Now().AddDate(0, 0, -2).Format(time.DateOnly)
	c.Want(
		http.StatusOK, http.MethodPost, "/api/people/alter",
		`{"people":[1],"alteration":{"do":"status","value":"away","until":"`+yesterday+`"}}`, nil,
	)
	assert.Equal(t, roster.Active, person(c, rania).Sheet.Status)
}

func TestWhatWasKeptIsListedAndForgotten(t *testing.T) {
	_, c := start(t)
	type kept struct {
		ID          int64
		Name, Words string
		Columns     int
	}
	var filters, mappings []kept
	rule := `[{"on":"role","test":"is","value":"guardian"}]`
	c.Want(http.StatusOK, http.MethodPost, "/api/filters", `{"name":"Guardians","rule":`+rule+`}`, &filters)
	require.Len(t, filters, 1)
	assert.Equal(t, "in the role guardian", filters[0].Words)
	assert.Contains(
		t,
		c.Problem(
			http.StatusUnprocessableEntity, http.MethodPost, "/api/filters",
			`{"name":"Odd","rule":[{"on":"attribute","id":99,"test":"is","value":"x"}]}`,
		),
		"The filters were not kept",
	)

	var v importView
	c.Want(http.StatusOK, http.MethodPost, "/api/imports?name=a.csv", []byte("Nr,Wer\nG1,Rania Haddad\n"), &v)
	path := fmt.Sprintf("/api/imports/%d", v.ID)
	c.Want(http.StatusOK, http.MethodPut, path, `{"meanings":["external id","full name"],"markLeft":false,"unit":0}`, nil)
	c.Want(http.StatusOK, http.MethodPost, path+"/mapping", `{"name":"Two columns"}`, nil)
	c.Want(http.StatusOK, http.MethodGet, "/api/mappings", nil, &mappings)
	require.Len(t, mappings, 1)
	assert.Equal(t, kept{ID: mappings[0].ID, Name: "Two columns", Columns: 2}, mappings[0])

	c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/filters/%d", filters[0].ID), nil, nil)
	c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/mappings/%d", mappings[0].ID), nil, nil)
	c.Want(http.StatusOK, http.MethodGet, "/api/filters", nil, &filters)
	c.Want(http.StatusOK, http.MethodGet, "/api/mappings", nil, &mappings)
	assert.Empty(t, filters)
	assert.Empty(t, mappings)
}

func TestADeclinedCorrectionChangesNothing(t *testing.T) {
	i, c := start(t)
	var link struct{ Path string }
	c.Want(http.StatusOK, http.MethodPost, "/api/people/2/link", nil, &link)
	before := person(c, 2).Sheet
	testkit.Stranger(t, i.URL).Want(
		http.StatusOK, http.MethodPut, "/api"+link.Path+"/details", `{"addresses":[],"language":"en","wish":"email"}`, nil,
	)
	var waiting []struct{ ID int64 }
	c.Want(http.StatusOK, http.MethodGet, "/api/updates", nil, &waiting)
	require.Len(t, waiting, 1)
	decline := fmt.Sprintf("/api/updates/%d/decline", waiting[0].ID)
	c.Want(http.StatusOK, http.MethodPost, decline, nil, nil)
	assert.Equal(t, before, person(c, 2).Sheet)
	c.Want(http.StatusConflict, http.MethodPost, decline, nil, nil)
	c.Want(http.StatusOK, http.MethodGet, "/api/updates", nil, &waiting)
	assert.Empty(t, waiting)
}

func TestColumnsOfOnesChoiceAreWritten(t *testing.T) {
	_, c := start(t)
	c.Want(http.StatusOK, http.MethodPost, "/api/attributes", `{"name":"Boat","kind":"text"}`, nil)
	var columns []string
	c.Want(http.StatusOK, http.MethodGet, "/api/export/columns", nil, &columns)
	assert.Contains(t, columns, "attribute: Boat", "what the organisation defines can be written too")
	status, file := c.Do(
		http.MethodPost, "/api/export", `{"people":[2],"what":"people","format":"csv","columns":["family name","language"]}`,
	)
	require.Equal(t, http.StatusOK, status)
	assert.Equal(t, "Family name,Language", strings.TrimPrefix(strings.SplitN(string(file), "\r\n", 2)[0], "\ufeff"))
	assert.Contains(
		t,
		c.Problem(
			http.StatusUnprocessableEntity, http.MethodPost, "/api/export",
			`{"people":[2],"what":"people","format":"csv","columns":["shoe size"]}`,
		),
		"shoe size",
	)
}
