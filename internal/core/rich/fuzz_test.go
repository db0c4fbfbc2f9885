package rich_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/rich"
)

// Whatever document is sent to us, one that is valid comes back as it was and
// brings no script into the page.
func FuzzDoc(f *testing.F) {
	for _, s := range []string{
		`"a\nb"`,
		`{"type":"doc","content":[{"type":"heading","attrs":{"level":2},"content":[{"type":"text","text":"<script>"}]}]}`,
		`{"type":"doc","content":[{"type":"paragraph","content":[{"type":"text","text":"x","marks":[{"type":"link","attrs":{"href":"https://a.example/\"onload=x"}}]}]}]}`,
		`"a\r\r\nb"`, `{"type":"doc","content":[{"type":"paragraph","content":[{"type":"text","text":"a\r\nb\r"}]}]}`,
		`{"content":null}`, `[]`, `{"type":"doc","content":[{"type":"bulletList"}]}`,
	} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		var d rich.Doc
		if json.Unmarshal(text, &d) != nil || d.Validate() != nil {
			return
		}
		out, err := json.Marshal(d)
		assert.NoError(t, err)
		var again rich.Doc
		assert.NoError(t, json.Unmarshal(out, &again))
		assert.Equal(t, d.Plain(), again.Plain())
		html := d.HTML(func(string) string { return "" })
		assert.NotContains(t, strings.ToLower(html), "<script")
		assert.NotContains(t, html, "javascript:")
	})
}
