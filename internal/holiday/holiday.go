// Package holiday knows the public holidays of countries.
package holiday

import (
	"time"

	"github.com/rickar/cal/v2"
	"github.com/rickar/cal/v2/at"
	"github.com/rickar/cal/v2/be"
	"github.com/rickar/cal/v2/bg"
	"github.com/rickar/cal/v2/br"
	"github.com/rickar/cal/v2/ca"
	"github.com/rickar/cal/v2/ch"
	"github.com/rickar/cal/v2/cz"
	"github.com/rickar/cal/v2/de"
	"github.com/rickar/cal/v2/dk"
	"github.com/rickar/cal/v2/es"
	"github.com/rickar/cal/v2/fr"
	"github.com/rickar/cal/v2/gb"
	"github.com/rickar/cal/v2/gr"
	"github.com/rickar/cal/v2/hr"
	"github.com/rickar/cal/v2/ie"
	"github.com/rickar/cal/v2/it"
	"github.com/rickar/cal/v2/jp"
	"github.com/rickar/cal/v2/lt"
	"github.com/rickar/cal/v2/lv"
	"github.com/rickar/cal/v2/nl"
	"github.com/rickar/cal/v2/no"
	"github.com/rickar/cal/v2/nz"
	"github.com/rickar/cal/v2/pl"
	"github.com/rickar/cal/v2/ro"
	"github.com/rickar/cal/v2/se"
	"github.com/rickar/cal/v2/si"
	"github.com/rickar/cal/v2/sk"
	"github.com/rickar/cal/v2/ua"
	"github.com/rickar/cal/v2/us"
	"github.com/rickar/cal/v2/za"
)

// byRegion are the countries whose holidays are known, by ISO 3166 code.
var byRegion = map[string][]*cal.Holiday{
	"AT": at.Holidays,
	"BE": be.Holidays,
	"BG": bg.Holidays,
	"BR": br.Holidays,
	"CA": ca.Holidays,
	"CH": ch.Holidays,
	"CZ": cz.Holidays,
	"DE": de.Holidays,
	"DK": dk.Holidays,
	"ES": es.Holidays,
	"FR": fr.Holidays,
	"GB": gb.Holidays,
	"GR": gr.Holidays,
	"HR": hr.Holidays,
	"IE": ie.Holidays,
	"IT": it.Holidays,
	"JP": jp.Holidays,
	"LT": lt.Holidays,
	"LV": lv.Holidays,
	"NL": nl.Holidays,
	"NO": no.Holidays,
	"NZ": nz.Holidays,
	"PL": pl.Holidays,
	"RO": ro.Holidays,
	"SE": se.Holidays,
	"SI": si.Holidays,
	"SK": sk.Holidays,
	"UA": ua.Holidays,
	"US": us.Holidays,
	"ZA": za.Holidays,
}

// On names the public holiday of a country on a day, or is "" for none.
func On(region string, day time.Time) string {
	for _, h := range byRegion[region] {
		if h.Type != cal.ObservancePublic && h.Type != cal.ObservanceBank {
			continue
		}
		actual, observed := h.Calc(day.Year())
		if sameDay(actual, day) || sameDay(observed, day) {
			return h.Name
		}
	}
	return ""
}

func sameDay(a, b time.Time) bool {
	return a.Year() == b.Year() && a.YearDay() == b.YearDay()
}
