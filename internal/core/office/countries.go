// Package office is what an organisation is: its name, where it is, and what it
// writes in.
package office

import (
	"cmp"
	_ "embed"
	"slices"
	"strings"
	"sync"

	"github.com/nyaruka/phonenumbers"
	"golang.org/x/text/currency"
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"upperlantern/internal/core/phrase"
)

// Country is a country in which an organisation can be, with what is usual there.
type Country struct {
	Region   string   `json:"region" doc:"ISO 3166"`
	Name     string   `json:"name"`
	Calling  int      `json:"calling" doc:"Its calling code (ITU-T E.164)"`
	Language string   `json:"language" doc:"BCP 47"`
	Currency string   `json:"currency" doc:"ISO 4217; empty when none is known"`
	Zones    []string `json:"zones" doc:"IANA, the most likely first"`
}

// zoneTable is zone.tab of the IANA time zone database, which is in the public
// domain: a country, a place, a zone.
//
//go:embed zone.tab
var zoneTable string

// Countries are those whose national form of numbers is known, by name.
var Countries = sync.OnceValue(func() []Country {
	zones := zonesByRegion()
	var list []Country
	for region := range phonenumbers.GetSupportedRegions() {
		r, err := language.ParseRegion(region)
		if err != nil || !r.IsCountry() || len(zones[region]) == 0 {
			continue
		}
		c := Country{
			Region: region, Name: display.English.Regions().Name(r), Calling: phonenumbers.GetCountryCodeForRegion(region),
			Language: spokenIn(region), Zones: zones[region],
		}
		if unit, ok := currency.FromRegion(r); ok {
			c.Currency = unit.String()
		}
		list = append(list, c)
	}
	slices.SortFunc(list, func(a, b Country) int { return cmp.Compare(a.Name, b.Name) })
	return list
})

// CountryOf finds a country by its code (ISO 3166).
func CountryOf(region string) (Country, bool) {
	list := Countries()
	at := slices.IndexFunc(list, func(c Country) bool { return c.Region == region })
	if at < 0 {
		return Country{}, false
	}
	return list[at], true
}

// zonesByRegion are the zones of each country.
func zonesByRegion() map[string][]string {
	zones := map[string][]string{}
	for line := range strings.Lines(zoneTable) {
		cells := strings.Split(strings.TrimSpace(line), "\t")
		if strings.HasPrefix(line, "#") || len(cells) < 3 {
			continue
		}
		zones[cells[0]] = append(zones[cells[0]], cells[2])
	}
	return zones
}

// spokenIn is the language that most speak in a country, as the program names it when
// it has words in it.
func spokenIn(region string) string {
	likely, _ := language.Raw.Parse("und-" + region)
	base, script, r := likely.Raw()
	if tag, err := language.Compose(base, script, r); err == nil {
		likely = tag
	}
	b, _ := likely.Base()
	spoken, _ := likely.Script()
	for _, tag := range []string{b.String() + "-" + region, b.String() + "-" + spoken.String(), b.String()} {
		if slices.Contains(phrase.Languages(), tag) {
			return tag
		}
	}
	return b.String()
}

// Currencies are the currencies that countries use, by their codes (ISO 4217).
var Currencies = sync.OnceValue(func() []string {
	var list []string
	for _, c := range Countries() {
		if c.Currency != "" && !slices.Contains(list, c.Currency) {
			list = append(list, c.Currency)
		}
	}
	slices.Sort(list)
	return list
})
