package wording

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/copies"
)

func TestDoubtsAreSaid(t *testing.T) {
	for _, code := range copies.Codes {
		assert.NotEmpty(t, doubts[code], code)
	}
	for want, d := range map[string]copies.Doubt{
		"Numbers, times or dates differ: the original has 8:30, this has 9:30.": {Code: copies.FiguresDiffer, Missing: []string{"8:30"}, Added: []string{"9:30"}},
		"Telephone numbers are missing: 07700 900123.":                          {Code: copies.PhonesDiffer, Missing: []string{"07700 900123"}},
		"Fields or formatting are not in the original: {2}.":                    {Code: copies.PlacesDiffer, Added: []string{"{2}"}},
		"Formatting crosses, or ends before it begins.":                         {Code: copies.PlacesDiffer},
		"The glossary says “Harrow Lock”.":                                      {Code: copies.TermMissed, Missing: []string{"Harrow Lock"}},
		"This still says what the original says.":                               {Code: copies.StillOriginal},
	} {
		assert.Equal(t, want, Doubt(d))
	}
}
