package httpapi_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/app"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
	"upperlantern/web"
)

type tableOf struct {
	About, Notes []string
	Columns      []struct{ Name, Kind string }
	Rows         []struct {
		Cells []struct{ Text string }
		To    *struct {
			Conditions []json.RawMessage
		}
	}
	Total *struct {
		Cells []struct{ Text string }
	}
}

func lineOf(cells []struct{ Text string }) string {
	var list []string
	for _, c := range cells {
		list = append(list, c.Text)
	}
	return strings.Join(list, " | ")
}

// lines are the rows of a table and its total, cell by cell.
func (t tableOf) lines() (list []string) {
	for _, r := range t.Rows {
		list = append(list, lineOf(r.Cells))
	}
	if t.Total != nil {
		list = append(list, lineOf(t.Total.Cells))
	}
	return list
}

func reportBy(c *testkit.Client, by, span string, conditions ...string) (t tableOf) {
	c.Want(http.StatusOK, http.MethodPost, "/api/reports/run", fmt.Sprintf(
		`{"by":%q,"span":%s,"conditions":[%s]}`, by, span, strings.Join(conditions, ","),
	), &t)
	return t
}

const allSpring = `{"of":"days","from":"2026-03-28","until":"2026-04-30"}`

// overSpring begins a program that sent a message on the last day of winter time, one in
// the first hour of April on its own clocks, and one in between in another currency.
func overSpring(t *testing.T) (*app.Instance, *testkit.Client, *testkit.Clock) {
	clock := testkit.NewClock(time.Date(2026, 3, 28, 12, 0, 0, 0, time.UTC))
	i := testkit.Start(t, testkit.Folder(t, testkit.Roster, nil), func(a *app.Config) {
		a.Now, a.Files = clock.Now, web.Files()
	})
	c := testkit.SignedIn(t, i.URL)
	send := func(parts string, n int) {
		id := sendDraft(t, c, draftOf(parts, "Hello"))
		received(t, i.Box, n)
		testkit.Eventually(t, "its reports came", func() bool {
			var s standingOf
			c.Record(id, &s)
			return s.Message.State == "sent" && s.Message.Figures.Waiting == 0
		})
	}
	send(`{"kind":"role","role":"guardian"}`, 3) // by mail, text and call; one declined
	clock.Pass(24 * time.Hour)
	o, err := i.Store.Organisation(t.Context())
	require.NoError(t, err)
	o.Currency = "EUR"
	require.NoError(t, i.Store.PutOrganisation(t.Context(), o))
	send(`{"kind":"role","role":"guardian"},{"kind":"group","group":4}`, 8) // Naya has two mailboxes, Di has nothing
	clock.Pass(time.Date(2026, 3, 31, 23, 30, 0, 0, time.UTC).Sub(clock.Now()))
	send(`{"kind":"role","role":"guardian"},{"kind":"group","group":1},{"kind":"group","group":4}`, 13)
	later := strings.Replace(draftOf(`{"kind":"group","group":4}`, "Later"), `"subject"`, `"sendAt":"2026-04-20T10:00:00Z","subject"`, 1)
	sendDraft(t, c, later) // which no report counts before it left
	testkit.Eventually(t, "who took them is written down, which may be after they arrived", func() bool {
		return !strings.Contains(strings.Join(reportBy(c, "carrier", allSpring).lines(), "\n"), "taken by none")
	})
	return i, c, clock
}

func TestReports(t *testing.T) {
	_, c, clock := overSpring(t)
	for _, r := range []struct {
		by     string
		starts []string
	}{
		{"month", []string{"March 2026 | 2 | 7 | 7 | 0 | 100 % | 3", "April 2026 | 1 | 4 | 4 | 0 | 100 % | 2", "Together | 3 | 11 | 11 | 0 | 100 % | 5"}},
		{"sender", []string{"Hugo Farrowby | 3 | 11 | 11 | 0", "Together | 3 | 11 | 11 | 0"}},
		{"unit", []string{"the whole organisation | 3 | 11 | 11 | 0", "Together | 3"}},
		{"urgency", []string{"routine | 3 | 11", "Together"}},
		{"group", []string{"Coaches | 2 | 8 | 8", "Junior squads | 1 | 4 | 4", "no group | 1 | 3 | 3", "Together | 3 | 11 | 11"}},
		{"channel", []string{"email | 3 | 7 | 7", "call | 3 | 3 | 3", "text | 3 | 3 | 3", "Together | 3 | 13 | 13"}},
		{"carrier", []string{"stand-in mail server | 3 | 7", "stand-in text gateway | 3 | 3", "stand-in voice gateway | 3 | 3", "Together | 3 | 13"}},
		{"language", []string{"the original | 3 | 11 | 11 | 0 | 100 % | 0", "none: they got nothing | 0 | 0 | 0 | 0 |  | 5", "Together | 3 | 11 | 11 | 0 | 100 % | 5"}},
		{"load", []string{"0 | 2 | 3", "2 to 3 | 4 | 7", "Together | 6 | 10"}},
	} {
		t.Run("by "+r.by, func(t *testing.T) {
			table := reportBy(c, r.by, allSpring)
			lines := table.lines()
			require.Len(t, lines, len(r.starts), "%q", lines)
			for n, start := range r.starts {
				assert.True(t, strings.HasPrefix(lines[n], start), "%q", lines[n])
			}
			for _, row := range table.Rows {
				if row.To == nil {
					continue
				}
				conditions, err := json.Marshal(row.To.Conditions)
				require.NoError(t, err)
				f := find(c, strings.Trim(string(conditions), "[]"), "")
				assert.Equal(t, row.Cells[1].Text, fmt.Sprint(f.All), "%s leads to its messages", row.Cells[0].Text)
			}
		})
	}
	t.Run("two currencies are two amounts", func(t *testing.T) {
		lines := reportBy(c, "month", allSpring).lines()
		assert.Regexp(t, `€0\.\d\d \+ £0\.\d\d$`, lines[0])
		assert.Regexp(t, `\| €0\.\d\d$`, lines[1])
		assert.Regexp(t, `€0\.\d\d \+ £0\.\d\d`, reportBy(c, "budget", allSpring).Total.Cells[2].Text)
	})
	t.Run("a condition narrows it", func(t *testing.T) {
		assert.True(t, strings.HasPrefix(reportBy(c, "month", allSpring, `{"on":"group","id":1}`).lines()[2], "Together | 1 | 4 | 4"))
	})
	t.Run("a condition that names a deleted unit counts nothing and says so", func(t *testing.T) {
		table := reportBy(c, "month", allSpring, `{"on":"unit","id":77}`)
		assert.Contains(t, table.lines()[2], "Together | 0 | 0")
		assert.Contains(t, strings.Join(table.Notes, " "), "no longer there")
	})
	t.Run("a year with a day of 23 hours and one of 25", func(t *testing.T) {
		clock.Pass(24 * time.Hour)
		assert.Contains(t, reportBy(c, "month", `{"of":"this-year"}`).lines()[4], "Together | 3 | 11")
	})
	t.Run("gaps, once a day", func(t *testing.T) {
		table := reportBy(c, "gap", allSpring)
		require.NotEmpty(t, table.Rows)
		assert.Equal(t, "28 Mar 2026", table.Rows[0].Cells[0].Text)
		assert.Equal(t, "8", table.Rows[0].Cells[len(table.Columns)-1].Text)
	})
}

func TestBadReports(t *testing.T) {
	_, c := start(t)
	for _, b := range []struct{ name, path, body, says string }{
		{"by nothing there is", "/api/reports/run", `{"by":"moon","span":{"of":"this-year"}}`, ""},
		{"by each once", "/api/reports/run", `{"by":"once","span":{"of":"this-year"}}`, ""},
		{"a span of nothing", "/api/reports/run", `{"by":"month","span":{"of":"days"}}`, `"" is no day`},
		{"days the wrong way round", "/api/reports/run", `{"by":"month","span":{"of":"days","from":"2026-02-02","until":"2026-02-01"}}`, "comes after the last"},
		{"a thousand years", "/api/reports/run", `{"by":"month","span":{"of":"days","from":"1026-02-02","until":"2026-02-01"}}`, "120 months at most"},
		{"a condition that says nothing", "/api/reports/run", `{"by":"month","span":{"of":"this-year"},"conditions":[{"on":"words","value":" "}]}`, "no word"},
		{"kept without a name", "/api/reports", `{"name":"  ","ask":{"by":"month","span":{"of":"this-year"}}}`, "without a name"},
		{"kept for nobody there is", "/api/reports", `{"name":"x","ask":{"by":"month","span":{"of":"this-year"}},"readers":[99]}`, "may not run reports"},
	} {
		t.Run(b.name, func(t *testing.T) {
			assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, b.path, b.body), b.says)
		})
	}
	c.Problem(http.StatusNotFound, http.MethodDelete, "/api/reports/77", nil)
}

// Who may run reports, and no more, sees figures of their own units: no contents, no
// addresses, and nothing that would tell them.
func TestReportsWithinUnits(t *testing.T) {
	i, office, una := startUnits(t, "Rowing", access.RunReports)
	sendDraft(t, office, draftOf(`{"kind":"role","role":"guardian"}`, "Secret"))
	received(t, i.Box, 1)
	require.NoError(t, i.Reporting.Tick(t.Context())) // there was nobody when the program started
	of := `{"of":"this-year"}`
	assert.Contains(t, reportBy(office, "sender", of).lines()[0], "Hugo Farrowby | 1")
	assert.Contains(t, reportBy(una, "sender", of).lines()[0], "Together | 0")
	assert.Contains(t, strings.Join(reportBy(una, "load", of).lines(), "\n"), "Together", "counts without names")
	assert.NotContains(t, strings.Join(reportBy(una, "load", of).Notes, " "), "Rania")
	gaps := reportBy(una, "gap", of)
	assert.Equal(t, "3", gaps.Rows[0].Cells[len(gaps.Columns)-1].Text, "people of Rowing")
	for _, condition := range []string{
		`{"on":"words","value":"secret"}`, `{"on":"person","id":1}`, `{"on":"address","value":"rania@example.org"}`,
	} {
		says := una.Problem(http.StatusForbidden, http.MethodPost, "/api/reports/run",
			`{"by":"month","span":{"of":"this-year"},"conditions":[`+condition+`]}`)
		assert.Contains(t, says, "Only who may read records")
	}
	for _, path := range []string{"/api/messages", "/api/messages/1/record", "/api/messages/1", "/api/searches"} {
		una.Problem(http.StatusForbidden, http.MethodGet, path, nil)
	}
	var kept struct{ ID int64 }
	office.Want(http.StatusOK, http.MethodPost, "/api/reports", `{"name":"Ours","ask":{"by":"unit","span":{"of":"this-year"}}}`, &kept)
	office.Want(http.StatusOK, http.MethodPost, "/api/reports",
		`{"name":"Words","ask":{"by":"unit","span":{"of":"this-year"},"conditions":[{"on":"words","value":"secret"}]}}`, nil)
	var seen struct{ Kept, Readers []struct{ Name string } }
	una.Want(http.StatusOK, http.MethodGet, "/api/reports", nil, &seen)
	assert.Equal(t, []struct{ Name string }{{"Ours"}}, seen.Kept, "what was looked for is not told")
	assert.Equal(t, []struct{ Name string }{{"Una Unit"}}, seen.Readers, "accounts that she reaches")
	una.Problem(http.StatusForbidden, http.MethodDelete, fmt.Sprintf("/api/reports/%d", kept.ID), nil)
	una.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/reports", `{"name":"Ours","ask":{"by":"unit","span":{"of":"this-year"}}}`)
	office.Want(http.StatusNoContent, http.MethodDelete, fmt.Sprintf("/api/reports/%d", kept.ID), nil, nil)

	_, _, without := startUnits(t, "Rowing", access.Write, access.ReadRecords)
	without.Problem(http.StatusForbidden, http.MethodPost, "/api/reports/run", `{"by":"month","span":{"of":"this-year"}}`)
	without.Problem(http.StatusForbidden, http.MethodGet, "/api/reports", nil)
}

// On the first of a month a kept report is mailed, once, with what its reader sees.
func TestAReportIsMailedEachMonth(t *testing.T) {
	i, c, clock := overSpring(t)
	office, err := i.Store.AccountByLogin(t.Context(), testkit.Login)
	require.NoError(t, err)
	una, err := i.Store.PutAccount(t.Context(), store.Account{
		Login: "una@quillmere.example", Name: "Una Unit", PasswordHash: office.PasswordHash, Active: true,
		Grant: access.Grant{Scope: roster.Scope{Whole: true}, Rights: []access.Right{access.RunReports}},
	})
	require.NoError(t, err)
	client := testkit.Stranger(t, i.URL)
	client.Want(http.StatusOK, http.MethodPost, "/api/sign-in",
		map[string]string{"login": "una@quillmere.example", "password": testkit.Password}, nil)
	assert.Contains(t, strings.Join(reportBy(c, "load", allSpring).Notes, "; "), "Naya Osei: 2 messages")
	assert.NotContains(t, strings.Join(reportBy(client, "load", allSpring).Notes, "; "), "Naya", "she may not see people")
	clock.Pass(24 * time.Hour) // 1 April
	body := `{"name":"Month","ask":{"by":"channel","span":{"of":"last-month"}},"readers":[%d,%d]}`
	c.Want(http.StatusOK, http.MethodPost, "/api/reports", fmt.Sprintf(body, office.ID, una), nil)
	before := len(received(t, i.Box, 13))
	require.NoError(t, i.Reporting.Tick(t.Context()))
	received(t, i.Box, before) // March had ended when it was kept
	clock.Pass(30 * 24 * time.Hour)
	gone := office
	gone.ID, gone.Login, gone.Name, gone.Rights = una, "una@quillmere.example", "Una Unit", nil
	_, err = i.Store.PutAccount(t.Context(), gone)
	require.NoError(t, err)
	for range 2 {
		require.NoError(t, i.Reporting.Tick(t.Context()))
	}
	var mails []string
	for _, item := range received(t, i.Box, before+1) {
		if item.Address == testkit.Login {
			mails = append(mails, item.Subject+"\n"+item.Body)
		}
	}
	require.Len(t, mails, 1, "who may not run reports any more gets none")
	assert.Contains(t, mails[0], "Month, April 2026\nDeliveries by channel")
	assert.Contains(t, mails[0], "1 April 2026 to 30 April 2026")
	assert.Contains(t, mails[0], "Together\n  Messages: 1\n  Deliveries: 5")
}
