package httpapi_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	"upperlantern/internal/testkit"
)

// A unit's account moves its own groups among each other, and no others.
func TestAUnitOrdersItsOwnGroupsOnly(t *testing.T) {
	_, office, una := startUnits(t, "Rowing", access.EditPeople, access.SeePeople)
	ids := map[string]int64{}
	add := func(c *testkit.Client, name string, unit int) {
		var g struct{ ID int64 }
		c.Want(
			http.StatusOK, http.MethodPost, "/api/groups", fmt.Sprintf(`{"name":%q,"kind":"picked","unit":%d}`, name, unit), &g,
		)
		ids[name] = g.ID
	}
	for _, name := range []string{"Whole A", "Rowing A", "Flood A", "Rowing B", "Whole B"} {
		unit := map[string]int{"Rowing": 1, "Flood": 2}[strings.Fields(name)[0]]
		add(office, name, unit)
	}
	order := func() (names []string) {
		var list []struct{ Name string }
		office.Want(http.StatusOK, http.MethodGet, "/api/groups", nil, &list)
		for _, g := range list {
			if _, ours := ids[g.Name]; ours {
				names = append(names, g.Name)
			}
		}
		return names
	}
	body := func(names ...string) string {
		list := make([]string, len(names))
		for i, n := range names {
			list[i] = fmt.Sprint(ids[n])
		}
		return `{"groups":[` + strings.Join(list, ",") + `]}`
	}
	before := order()
	for _, wanted := range [][]string{
		{"Rowing A", "Whole A", "Rowing B", "Whole B"}, {"Whole B", "Rowing A", "Rowing B", "Whole A"},
	} {
		problem := una.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/groups/order", body(wanted...))
		assert.Contains(t, problem, "only groups of your units change places")
		assert.Equal(t, before, order())
	}
	una.Want(
		http.StatusNoContent, http.MethodPost, "/api/groups/order", body("Whole A", "Rowing B", "Rowing A", "Whole B"), nil,
	)
	assert.Equal(t, []string{"Whole A", "Rowing B", "Flood A", "Rowing A", "Whole B"}, order())
	office.Want(
		http.StatusNoContent, http.MethodPost, "/api/groups/order",
		body("Whole B", "Whole A", "Flood A", "Rowing A", "Rowing B"), nil,
	)
	assert.Equal(t, []string{"Whole B", "Whole A", "Flood A", "Rowing A", "Rowing B"}, order())
}

// An account that begins at a unit renames it, and the unit stays where it is.
func TestAUnitsAdministratorRenamesTheUnitAndLeavesItInTheTree(t *testing.T) {
	_, office, _ := startUnits(t, "Rowing", access.SeePeople)
	office.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"Juniors","parent":1}`, nil)
	office.Want(
		http.StatusOK, http.MethodPost, "/api/accounts",
		`{"login":"juniors@example.org","name":"Jun","duty":"","active":true,"password":"a password for tests","scope":{"whole":false,"units":[3]},"rights":["change-settings"]}`,
		nil,
	)
	jun := testkit.Stranger(t, office.URL)
	jun.Want(
		http.StatusOK, http.MethodPost, "/api/sign-in", `{"login":"juniors@example.org","password":"a password for tests"}`,
		nil,
	)
	for _, body := range []string{
		`{"id":3,"name":"Youth"}`, `{"id":3,"name":"Youth squads","parent":1}`, `{"id":3,"name":"Young rowers","parent":2}`,
	} {
		jun.Want(http.StatusOK, http.MethodPost, "/api/units", body, nil)
		var s struct {
			Units []struct {
				ID     int64
				Name   string
				Parent int64
			}
		}
		office.Want(http.StatusOK, http.MethodGet, "/api/settings", nil, &s)
		for _, u := range s.Units {
			if u.ID == 3 {
				assert.EqualValues(t, 1, u.Parent, body)
				assert.Contains(t, body, u.Name)
			}
		}
	}
	jun.Want(http.StatusOK, http.MethodPost, "/api/units", `{"name":"U10","parent":3}`, nil)
	jun.Want(http.StatusUnprocessableEntity, http.MethodPost, "/api/units", `{"name":"Mine"}`, nil)
}

// The right to change settings alone neither sets the password of an account
// with more rights nor ends it, and somebody with every right stays.
func TestNobodyChangesAnAccountThatMayMore(t *testing.T) {
	_, office := start(t)
	limited := `{"login":"set@example.org","name":"Set","duty":"","active":true,"password":"a password for tests","scope":{"whole":true,"units":[]},"rights":["change-settings"]}`
	office.Want(http.StatusOK, http.MethodPost, "/api/accounts", limited, nil)
	set := testkit.Stranger(t, office.URL)
	set.Want(
		http.StatusOK, http.MethodPost, "/api/sign-in", `{"login":"set@example.org","password":"a password for tests"}`, nil,
	)
	for name, body := range map[string]string{
		"its password":  `{"id":1,"login":"office@quillmere.example","name":"Hugo","duty":"","active":true,"password":"another teapot gravel","scope":{"whole":true,"units":[]},"rights":["change-settings"]}`,
		"ending it":     `{"id":1,"login":"office@quillmere.example","name":"Hugo","duty":"","active":false,"scope":{"whole":true,"units":[]},"rights":["change-settings"]}`,
		"its mail name": `{"id":1,"login":"set2@example.org","name":"Hugo","duty":"","active":true,"scope":{"whole":true,"units":[]},"rights":[]}`,
	} {
		assert.Contains(
			t, set.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/accounts", body), "may do more than you", name,
		)
	}
	testkit.SignedIn(t, office.URL).Want(http.StatusOK, http.MethodGet, "/api/session", nil, nil)

	// Another full account cannot end the last one but itself.
	all := `"rights":["see-people","edit-people","write","write-emergencies","read-records","run-reports","change-settings"]`
	less := `{"id":1,"login":"office@quillmere.example","name":"Hugo","duty":"","active":true,"scope":{"whole":true,"units":[]},"rights":["change-settings"]}`
	assert.Contains(
		t, office.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/accounts", less),
		"the last account with every right",
	)
	office.Want(
		http.StatusOK, http.MethodPost, "/api/accounts",
		`{"login":"two@example.org","name":"Two","duty":"","active":true,"password":"a password for tests","scope":{"whole":true,"units":[]},`+all+`}`,
		nil,
	)
	office.Want(http.StatusOK, http.MethodPost, "/api/accounts", less, nil)
}

// What somebody kept is deleted by them, or by whoever changes the settings.
func TestKeptFiltersAndMappingsHaveAMaker(t *testing.T) {
	_, office, una := startUnits(t, "Rowing", access.EditPeople, access.SeePeople)
	var kept []struct{ ID int64 }
	rule := `"rule":[{"on":"role","test":"is","value":"guardian"}]`
	office.Want(http.StatusOK, http.MethodPost, "/api/filters", `{"name":"Guardians",`+rule+`}`, &kept)
	path := fmt.Sprintf("/api/filters/%d", kept[0].ID)
	assert.Contains(t, una.Problem(http.StatusUnprocessableEntity, http.MethodDelete, path, nil), "kept by somebody else")
	assert.Contains(
		t, una.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/filters", `{"name":"GUARDIANS",`+rule+`}`),
		"choose another",
	)
	una.Want(http.StatusOK, http.MethodPost, "/api/filters", `{"name":"Mine",`+rule+`}`, &kept)
	require.Len(t, kept, 2)
	una.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/filters/%d", kept[1].ID), nil, nil)
	una.Want(http.StatusOK, http.MethodPost, "/api/filters", `{"name":"Mine",`+rule+`}`, &kept)
	office.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/filters/%d", kept[1].ID), nil, nil)
	office.Want(http.StatusNoContent, http.MethodDelete, path, nil, nil)

	var v importView
	office.Want(http.StatusOK, http.MethodPost, "/api/imports?name=a.csv", []byte("Nr,Wer\nG1,Rania Haddad\n"), &v)
	office.Want(
		http.StatusOK, http.MethodPut, fmt.Sprintf("/api/imports/%d", v.ID),
		`{"meanings":["external id","full name"],"markLeft":false,"unit":0}`, nil,
	)
	office.Want(
		http.StatusOK, http.MethodPost, fmt.Sprintf("/api/imports/%d/mapping", v.ID), `{"name":"Two columns"}`, nil,
	)
	assert.Contains(
		t, una.Problem(http.StatusUnprocessableEntity, http.MethodDelete, "/api/mappings/1", nil), "kept by somebody else",
	)
	office.Want(http.StatusNoContent, http.MethodDelete, "/api/mappings/1", nil, nil)
}

// Nothing that an account may not see shows by its title: not in hints of the
// plan, not in what a person got, not in the strip, lists or searches.
func TestTitlesOfOtherUnitsDoNotShow(t *testing.T) {
	i, office, una := startUnits(t, "Flood watch", access.SeePeople, access.Write)
	const di = 5
	to := func(title string) string {
		return strings.Replace(
			draftOf(fmt.Sprintf(`{"kind":"person","person":%d}`, di), "Hello"), `"subject":"Outing"`,
			fmt.Sprintf(`"subject":%q`, title), 1,
		)
	}
	require.Contains(t, to("Secret plans"), "Secret plans")
	sendDraft(t, office, to("Secret plans"))
	received(t, i.Box, 1)
	for _, look := range []struct {
		method, path, body, shows string
	}{
		{http.MethodPost, "/api/plan", to("Mine"), "A message of another unit goes to 1 of these people too"},
		{http.MethodGet, fmt.Sprintf("/api/people/%d", di), "", "a message of another unit"},
		{http.MethodGet, "/api/strip", "", `"held":[]`},
		{http.MethodGet, "/api/messages", "", `"all":0`},
		{http.MethodGet, "/api/find?search=secret", "", `"messages":[]`},
	} {
		var body any
		if look.body != "" {
			body = look.body
		}
		status, content := una.Do(look.method, look.path, body)
		require.Equal(t, http.StatusOK, status, string(content))
		assert.NotContains(t, string(content), "Secret", look.path)
		assert.Contains(t, string(content), look.shows, look.path)
	}
	_, content := office.Do(http.MethodPost, "/api/plan", to("Mine"))
	assert.Contains(t, string(content), "“Secret plans” goes to 1 of these people too")
}

// Lists are cut by page, after what the account may not see is left out.
func TestListsGoByPage(t *testing.T) {
	_, office, una := startUnits(t, "Flood watch", access.SeePeople, access.EditPeople, access.Write)
	una.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", nil)
	una.Want(
		http.StatusOK, http.MethodPost, "/api/people/alter", `{"people":[5],"alteration":{"do":"language","value":"pl"}}`,
		nil,
	)
	for n := range 5 {
		office.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", nil)
		office.Want(
			http.StatusOK, http.MethodPost, "/api/people/alter",
			fmt.Sprintf(`{"people":[1],"alteration":{"do":"language","value":%q}}`, []string{"pl", "ar"}[n%2]), nil,
		)
	}
	var page struct {
		Messages []struct{ ID int64 }
		All      int
	}
	una.Want(http.StatusOK, http.MethodGet, "/api/messages?count=1", nil, &page)
	assert.Equal(t, 1, page.All)
	assert.Len(t, page.Messages, 1, "hers, though newer ones of others stand before it")
	office.Want(http.StatusOK, http.MethodGet, "/api/messages?first=4&count=2", nil, &page)
	assert.Equal(t, 6, page.All)
	assert.Len(t, page.Messages, 2)
	var edits []struct{ Mine bool }
	una.Want(http.StatusOK, http.MethodGet, "/api/edits?count=1", nil, &edits)
	require.Len(t, edits, 1)
	assert.True(t, edits[0].Mine)
}

// The number of a deleted draft never comes back.
func TestNumbersOfMessagesAreGivenOnce(t *testing.T) {
	_, c := start(t)
	var first, second struct{ ID int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &first)
	c.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/messages/%d", first.ID), nil, nil)
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &second)
	assert.Greater(t, second.ID, first.ID)
}
