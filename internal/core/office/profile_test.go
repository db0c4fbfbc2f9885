package office_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/office"
	"upperlantern/internal/core/plan"
)

func harrow() office.Profile {
	return office.Profile{
		Basics: office.Basics{
			Name: "Harrow Lock School", Language: "en", Region: "GB", TimeZone: "Europe/London", Currency: "GBP",
		},
		MailName: "Harrow Lock School", MailFrom: "office@harrowlock.example", ReturnDomain: "returns.harrowlock.example",
		NumberFrom: "+447700900100", TextRates: []office.Price{{"", "0.09"}, {"+44", "0.038"}},
		CallRates: []office.Price{{"+44", "0.065"}},
	}
}

func TestSettingsAreChecked(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*office.Profile)
		says   string
	}{
		"as they are":                     {func(*office.Profile) {}, ""},
		"a national number":               {func(s *office.Profile) { s.NumberFrom = "07700 900100" }, ""},
		"prices in another order":         {func(s *office.Profile) { s.TextRates = []office.Price{{"+44", "0,0380"}, {" ", "0.09"}} }, ""},
		"no name of emails":               {func(s *office.Profile) { s.MailName = "" }, ""},
		"a mailbox of nobody":             {func(s *office.Profile) { s.MailFrom = "office" }, "emails come from"},
		"a domain with a path":            {func(s *office.Profile) { s.ReturnDomain = "harrowlock.example/returns" }, "no domain"},
		"a number that is none":           {func(s *office.Profile) { s.NumberFrom = "0770" }, "number of texts"},
		"a prefix that is none":           {func(s *office.Profile) { s.TextRates[1].Prefix = "44" }, "no beginning of a number"},
		"two prices for one":              {func(s *office.Profile) { s.TextRates[0].Prefix = "+44" }, "two prices for +44"},
		"two prices for all others":       {func(s *office.Profile) { s.CallRates = []office.Price{{"", "1"}, {"", "2"}} }, "all other numbers"},
		"a price that is none":            {func(s *office.Profile) { s.CallRates[0].Price = "free" }, "what a call costs"},
		"a country that cannot be chosen": {func(s *office.Profile) { s.Region = "QQ" }, "no country"},
	} {
		t.Run(name, func(t *testing.T) {
			s := harrow()
			c.change(&s)
			got, rates, err := s.Checked()
			if c.says != "" {
				require.ErrorIs(t, err, office.ErrUnfit)
				assert.ErrorContains(t, err, c.says)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, harrow(), got)
			assert.Equal(t, plan.Rates{
				TextPart:    []plan.Rate{{Prefix: "", Price: 9 * money.Minor}, {Prefix: "+44", Price: 3800}},
				VoiceMinute: []plan.Rate{{Prefix: "+44", Price: 6500}},
			}, rates)
		})
	}
	bare := harrow()
	bare.ReturnDomain, bare.NumberFrom = "", ""
	got, _, err := bare.Checked()
	require.NoError(t, err)
	assert.Equal(t, "harrowlock.example", got.ReturnDomain, "that of the mailbox")
	assert.Empty(t, got.NumberFrom)
}

func TestChangesOfSettingsAreSaid(t *testing.T) {
	after := harrow()
	assert.Empty(t, harrow().Changes(after))
	after.TimeZone, after.NumberFrom, after.TextRates = "Europe/Paris", "", []office.Price{{"", "0.1"}}
	assert.Equal(t, []string{
		"time zone: Europe/London → Europe/Paris", "number: +447700900100 → none", "rates of texts: others 0.09, +44 0.038 → others 0.1",
	}, harrow().Changes(after))
}
