package httpapi_test

import (
	"bytes"
	"fmt"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/access"
	"upperlantern/internal/exchange"
	"upperlantern/internal/testkit"
)

// exported is a file that the program wrote for a client.
func exported(t *testing.T, c *testkit.Client, body string) (content []byte, name string) {
	t.Helper()
	var state struct {
		ID, Name, Failed string
		Rows, All        int
		Done             bool
	}
	c.Want(http.StatusOK, http.MethodPost, "/api/exports", body, &state)
	path := "/api/exports/" + state.ID
	testkit.Eventually(t, "the file is written", func() bool {
		c.Want(http.StatusOK, http.MethodGet, path, nil, &state)
		return state.Done || state.Failed != ""
	})
	require.Empty(t, state.Failed)
	assert.Equal(t, state.All, state.Rows, "all rows that were announced")
	status, content := c.Do(http.MethodGet, path+"/content", nil)
	require.Equal(t, http.StatusOK, status)
	c.Want(http.StatusNoContent, http.MethodDelete, path, nil, nil)
	c.Problem(http.StatusNotFound, http.MethodGet, path+"/content", nil)
	return content, state.Name
}

func TestFilesOfReportsMessagesAndRecords(t *testing.T) {
	_, c, _ := overSpring(t)
	for _, f := range []struct{ name, what, has string }{
		{"report", `"report":{"by":"channel","span":` + allSpring + `}`, "Deliveries by channel"},
		{"messages", `"search":{"conditions":[{"on":"group","id":4}]}`, "Messages"},
		{"record", `"message":2`, "Outing"},
	} {
		for format, start := range map[string]string{"csv": "\xef\xbb\xbf", "xlsx": "PK", "pdf": "%PDF-1.7", "html": "<!doctype html>"} {
			t.Run(f.name+" "+format, func(t *testing.T) {
				content, name := exported(t, c, fmt.Sprintf(`{%s,"format":%q}`, f.what, format))
				assert.True(t, bytes.HasPrefix(content, []byte(start)), "%.40q", content)
				assert.Contains(t, name, f.has)
				assert.Contains(t, name, "2026-04-01."+format)
			})
		}
	}
	t.Run("a record has a row for each delivery and for whoever got nothing", func(t *testing.T) {
		content, _ := exported(t, c, `{"message":2,"format":"csv"}`)
		table, err := exchange.ReadCSV(content)
		require.NoError(t, err)
		var rows []string
		for _, r := range table.Rows[:7] {
			rows = append(rows, fmt.Sprint(r.Cells[0], ", ", r.Cells[1], ", ", r.Cells[3], ", ", r.Cells[4]))
		}
		assert.ElementsMatch(t, []string{
			"Rania Haddad, reached, email, rania@example.org", "Piotr Zielony, reached, text, +44 7700 900418",
			"Lena Achterberg, reached, call, +44 7700 900188", "Naya Osei, reached, email, naya@example.org",
			"Naya Osei, reached, email, naya@quillmere.example", "Tuan Vo, got nothing, , ", "Di Venn, got nothing, , ",
		}, rows)
		assert.Contains(t, string(content), "Quillmere Rowing Club & Flood Watch, made on 1 April 2026 at 00:30 by Hugo Farrowby")
		assert.Contains(t, string(content), "4 recipients, 4 reached")
	})
	t.Run("nothing is found by what is gone", func(t *testing.T) {
		content, _ := exported(t, c, `{"search":{"conditions":[{"on":"unit","id":77}]},"format":"csv"}`)
		assert.Contains(t, string(content), "no longer there: nothing is found")
	})
	for _, b := range []struct {
		name, body string
		status     int
		says       string
	}{
		{"nothing", `{"format":"csv"}`, 422, "name a report, a search or a message"},
		{"two at once", `{"message":1,"search":{"conditions":[]},"format":"csv"}`, 422, "one of them only"},
		{"a format that is none", `{"message":1,"format":"doc"}`, 422, ""},
		{"a message that is none", `{"message":77,"format":"csv"}`, 404, ""},
		{"a search that says nothing", `{"search":{"conditions":[{"on":"words","value":""}]},"format":"csv"}`, 422, "no word"},
		{"a report that is none", `{"report":{"by":"moon","span":{"of":"this-year"}},"format":"csv"}`, 422, ""},
	} {
		t.Run(b.name, func(t *testing.T) {
			assert.Contains(t, c.Problem(b.status, http.MethodPost, "/api/exports", b.body), b.says)
		})
	}
	var m struct{ ID int64 }
	c.Want(http.StatusOK, http.MethodPost, "/api/messages", "{}", &m)
	assert.Contains(t, c.Problem(http.StatusUnprocessableEntity, http.MethodPost, "/api/exports",
		fmt.Sprintf(`{"message":%d,"format":"csv"}`, m.ID)), "a draft has no record")
}

// Each kind of file needs its own right, and is written of what its account sees.
func TestFilesWithinRights(t *testing.T) {
	i, office, una := startUnits(t, "Rowing", access.RunReports)
	sendDraft(t, office, draftOf(`{"kind":"role","role":"guardian"}`, "Secret"))
	received(t, i.Box, 1)
	content, _ := exported(t, una, `{"report":{"by":"sender","span":{"of":"this-year"}},"format":"csv"}`)
	assert.NotContains(t, string(content), "Hugo")
	una.Problem(http.StatusForbidden, http.MethodPost, "/api/exports", `{"search":{"conditions":[]},"format":"csv"}`)
	una.Problem(http.StatusForbidden, http.MethodPost, "/api/exports", `{"message":1,"format":"csv"}`)
	una.Problem(http.StatusForbidden, http.MethodPost, "/api/exports",
		`{"report":{"by":"month","span":{"of":"this-year"},"conditions":[{"on":"words","value":"secret"}]},"format":"csv"}`)

	_, other, reader := startUnits(t, "Rowing", access.ReadRecords)
	sendDraft(t, other, draftOf(`{"kind":"role","role":"guardian"}`, "Secret"))
	reader.Problem(http.StatusNotFound, http.MethodPost, "/api/exports", `{"message":1,"format":"csv"}`)
	reader.Problem(http.StatusForbidden, http.MethodPost, "/api/exports", `{"report":{"by":"sender","span":{"of":"this-year"}},"format":"csv"}`)
	content, _ = exported(t, reader, `{"search":{"conditions":[]},"format":"csv"}`)
	assert.NotContains(t, string(content), "Outing")
	var theirs struct{ ID string }
	other.Want(http.StatusOK, http.MethodPost, "/api/exports", `{"message":1,"format":"csv"}`, &theirs)
	reader.Problem(http.StatusNotFound, http.MethodGet, "/api/exports/"+theirs.ID, nil)
	reader.Problem(http.StatusNotFound, http.MethodGet, "/api/exports/"+theirs.ID+"/content", nil)
	reader.Problem(http.StatusNotFound, http.MethodDelete, "/api/exports/"+theirs.ID, nil)
}
