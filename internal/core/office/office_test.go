package office_test

import (
	"testing"
	"time"
	_ "time/tzdata" // zones on machines that have none

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/office"
	"upperlantern/internal/core/phone"
)

func TestWhatIsUsualInACountry(t *testing.T) {
	for region, want := range map[string]office.Country{
		"GB": {Region: "GB", Name: "United Kingdom", Calling: 44, Language: "en", Currency: "GBP", Zones: []string{"Europe/London"}},
		"PL": {Region: "PL", Name: "Poland", Calling: 48, Language: "pl", Currency: "PLN", Zones: []string{"Europe/Warsaw"}},
		"DE": {Region: "DE", Name: "Germany", Calling: 49, Language: "de", Currency: "EUR", Zones: []string{"Europe/Berlin", "Europe/Busingen"}},
		"SE": {Region: "SE", Name: "Sweden", Calling: 46, Language: "sv", Currency: "SEK", Zones: []string{"Europe/Stockholm"}},
		"VN": {Region: "VN", Name: "Vietnam", Calling: 84, Language: "vi", Currency: "VND", Zones: []string{"Asia/Ho_Chi_Minh"}},
	} {
		got, ok := office.CountryOf(region)
		require.True(t, ok, region)
		assert.Equal(t, want, got)
	}
	for region, language := range map[string]string{"BR": "pt-BR", "PT": "pt-PT", "CN": "zh-Hans", "EG": "ar", "CH": "de"} {
		got, _ := office.CountryOf(region)
		assert.Equal(t, language, got.Language, region)
	}
	brazil, _ := office.CountryOf("BR")
	assert.Greater(t, len(brazil.Zones), 10)
	_, ok := office.CountryOf("QQ")
	assert.False(t, ok)
}

// Whatever is proposed can be kept as it is.
func TestWhatIsProposedFits(t *testing.T) {
	require.Greater(t, len(office.Countries()), 200)
	for _, c := range office.Countries() {
		for _, zone := range c.Zones {
			_, err := time.LoadLocation(zone)
			require.NoError(t, err)
		}
		if c.Currency == "" {
			continue
		}
		b := office.Basics{Name: "A club", Language: c.Language, Region: c.Region, TimeZone: c.Zones[0], Currency: c.Currency}
		got, err := b.Checked()
		require.NoError(t, err, c.Name)
		assert.Equal(t, b, got, c.Name)
	}
	assert.Contains(t, office.Currencies(), "GBP")
}

func TestBasicsAreChecked(t *testing.T) {
	good := office.Basics{Name: "Harrow Lock School", Language: "en", Region: "GB", TimeZone: "Europe/London", Currency: "GBP"}
	for name, c := range map[string]struct {
		change func(*office.Basics)
		says   string
	}{
		"as it is": {func(*office.Basics) {}, ""},
		"typed loosely": {func(b *office.Basics) {
			b.Name, b.Region, b.Currency, b.Language = "  Harrow  Lock School ", "gb", "gbp", "English"
		}, ""},
		"no name":                {func(b *office.Basics) { b.Name = " " }, "needs a name"},
		"a language of nobody":   {func(b *office.Basics) { b.Language = "riverish" }, `"riverish" is no language`},
		"a country of nobody":    {func(b *office.Basics) { b.Region = "QQ" }, "no country"},
		"no country":             {func(b *office.Basics) { b.Region = "" }, "no country"},
		"a zone of nobody":       {func(b *office.Basics) { b.TimeZone = "Europe/Quillmere" }, "no time zone"},
		"the machine's own zone": {func(b *office.Basics) { b.TimeZone = "Local" }, "no time zone"},
		"no zone":                {func(b *office.Basics) { b.TimeZone = "" }, "no time zone"},
		"a way out of the zones": {func(b *office.Basics) { b.TimeZone = "../../etc/passwd" }, "no time zone"},
		"a currency of nobody":   {func(b *office.Basics) { b.Currency = "QQQ" }, "no currency"},
	} {
		t.Run(name, func(t *testing.T) {
			b := good
			c.change(&b)
			got, err := b.Checked()
			if c.says == "" {
				require.NoError(t, err)
				assert.Equal(t, good, got)
				return
			}
			require.ErrorIs(t, err, office.ErrUnfit)
			assert.ErrorContains(t, err, c.says)
		})
	}
}

// A national number is read in every country that can be chosen.
func TestCountriesReadNumbers(t *testing.T) {
	got, err := phone.Parse("07700 900417", "GB")
	require.NoError(t, err)
	assert.Equal(t, "+447700900417", got)
	for _, c := range office.Countries() {
		assert.Positive(t, c.Calling, c.Name)
	}
}
