package standin_test

import (
	"net/http/httptest"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/standin"
)

func translator(t *testing.T) *carrier.Translation {
	t.Helper()
	return carrier.NewTranslation(serverURL(t)+"/translations", "token")
}

func said(t *testing.T, from, to string, asked ...string) (list []string, note string) {
	t.Helper()
	answer, err := translator(t).Translate(t.Context(), carrier.TranslationRequest{From: from, To: to, Lines: asked})
	require.NoError(t, err)
	for _, l := range answer.Lines {
		if l == nil {
			list = append(list, "")
		} else {
			list = append(list, *l)
		}
	}
	return list, answer.Note
}

func TestTheStandInKnowsItsPhrases(t *testing.T) {
	list, note := said(t, "en", "pl", "Thank you.", "THANK  YOU.", "The heron nests on the weir.", "Dear {1},")
	assert.Equal(t, []string{"Dziękujemy.", "Dziękujemy.", "", "{1}, dzień dobry,"}, list)
	assert.Empty(t, note)
	list, _ = said(t, "en-GB", "zh-Hans-CN", "Thank you.")
	assert.Equal(t, []string{"谢谢。"}, list)
	list, _ = said(t, "pl", "en", "Dziękujemy.")
	assert.Equal(t, []string{"Thank you."}, list, "it reads back")
}

func TestTheStandInReallyTranslates(t *testing.T) {
	list, note := said(t, "en", "es", "Please bring {1}water{/1} at 8:30.", "The house is red.")
	if _, err := exec.LookPath("apertium"); err != nil {
		assert.Equal(t, []string{"", ""}, list)
		assert.Contains(t, note, "Apertium is not installed")
		return
	}
	assert.Empty(t, note)
	assert.Contains(t, list[0], "{1}agua{/1}")
	assert.Contains(t, list[0], "8:30")
	assert.Equal(t, "La casa es roja.", list[1])
	portuguese, _ := said(t, "en", "pt-PT", "The house is red.")
	assert.Equal(t, "A casa é vermelha.", portuguese[0], "through Spanish")
}

func TestTheStandInRefusesWhatIsNoRequest(t *testing.T) {
	_, err := carrier.NewTranslation(serverURL(t)+"/translations", "wrong").Translate(
		t.Context(), carrier.TranslationRequest{From: "en", To: "pl", Lines: []string{"Thank you."}},
	)
	assert.ErrorContains(t, err, "401")
	_, err = translator(t).Translate(t.Context(), carrier.TranslationRequest{From: "en", To: "pl", Lines: make([]string, 2001)})
	assert.ErrorContains(t, err, "400")
}

func serverURL(t *testing.T) string {
	t.Helper()
	box := &standin.Box{Options: standin.Options{Token: "token"}}
	server := httptest.NewServer(box.Gateway())
	t.Cleanup(server.Close)
	return server.URL
}

// The phrases that ship raise no doubt beside their originals.
func TestTheShippedPhrasesAreRight(t *testing.T) {
	examiner := copies.Examiner{From: "en"}
	pairs := 0
	for _, phrase := range standin.Phrases() {
		l := lines.Line{Text: phrase["en"], Places: make([]lines.Placeholder, 9)}
		if strings.Contains(l.Text, "{/1}") {
			l.Places[0].Kind = lines.Bold
		}
		for tag, text := range phrase {
			if tag == "en" || text == phrase["en"] {
				continue
			}
			pairs++
			assert.Empty(t, examiner.Doubts(l, text, tag), "%s: %s", tag, text)
		}
	}
	assert.Greater(t, pairs, 1500)
}
