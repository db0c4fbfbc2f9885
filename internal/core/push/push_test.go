package push_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/push"
)

func ExamplePayload_Encode() {
	p := push.Payload{Title: "Outing moved", Body: "Boats out at 8 & not before.", Quiet: true, Language: "en"}
	fmt.Println(string(p.Encode()))
	// Output: {"title":"Outing moved","body":"Boats out at 8 & not before.","quiet":true,"lang":"en"}
}

func TestFit(t *testing.T) {
	long := strings.TrimSpace(strings.Repeat("sandbags ", 1000))
	for _, c := range []struct {
		name string
		body string
		same bool
	}{
		{"a short body stays", "Bring boots.", true},
		{"nothing stays nothing", "", true},
		{"a long one is cut between words", long, false},
		{"one without spaces is cut anywhere", strings.Repeat("水", 3000), false},
		{"what is escaped counts as it is sent", strings.Repeat("\n\"", 2000), false},
	} {
		t.Run(c.name, func(t *testing.T) {
			p := push.Payload{Title: "T", Body: c.body}.Fit()
			assert.LessOrEqual(t, p.Size(), push.Most)
			if c.same {
				assert.Equal(t, c.body, p.Body)
				return
			}
			assert.True(t, strings.HasSuffix(p.Body, "…"), p.Body)
			assert.Greater(t, p.Size(), push.Most*9/10, "as much as fits is kept")
		})
	}
	assert.True(t, strings.HasSuffix(push.Payload{Body: long}.Fit().Body, "sandbags…"))
}

func TestFitAlwaysFits(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		body := rapid.StringN(0, 6000, -1).Draw(t, "body")
		p := push.Payload{
			Title: rapid.StringN(0, 100, -1).Draw(t, "title"), Body: body, Badge: rapid.Bool().Draw(t, "badge"),
		}.Fit()
		require.LessOrEqual(t, p.Size(), push.Most)
		require.True(t, utf8.ValidString(p.Body) || !utf8.ValidString(body), "no letter is cut in two")
		require.True(t, strings.HasPrefix(body, strings.TrimSuffix(p.Body, "…")) || p.Body == body)
	})
}

func TestEnvelopeFits(t *testing.T) {
	p := push.Payload{Title: "T", Body: strings.Repeat("word ", 2000)}.Fit()
	p.Key = strings.Repeat("K", 32)
	p.Report = "https://" + strings.Repeat("r", 200)
	assert.LessOrEqual(t, len(p.Encode()), push.Largest)
	var back push.Payload
	require.NoError(t, json.Unmarshal(p.Encode(), &back))
	assert.Equal(t, p, back)
}
