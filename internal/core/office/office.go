package office

import (
	"cmp"
	"errors"
	"fmt"
	"strings"
	"time"

	"golang.org/x/text/currency"

	"upperlantern/internal/core/entry"
)

// Basics are what an organisation is called, where it is and what it writes in.
type Basics struct {
	Name     string `json:"name" maxLength:"200"`
	Language string `json:"language" maxLength:"40" doc:"In which messages are written, BCP 47"`
	Region   string `json:"region" maxLength:"2" doc:"ISO 3166: whose national form of numbers is meant, and whose holidays are known"`
	TimeZone string `json:"timeZone" maxLength:"60" doc:"IANA"`
	Currency string `json:"currency" maxLength:"3" doc:"ISO 4217"`
}

// Usual fills what is not named with what is usual in the country.
func (b Basics) Usual() Basics {
	c, ok := CountryOf(strings.ToUpper(entry.Clean(b.Region)))
	if ok {
		b.Language, b.Currency = cmp.Or(b.Language, c.Language), cmp.Or(b.Currency, c.Currency)
		b.TimeZone = cmp.Or(b.TimeZone, c.Zones[0])
	}
	return b
}

// ErrUnfit means that something of an organisation cannot be so.
var ErrUnfit = errors.New("this cannot be kept")

// Checked are basics as they are kept: trimmed, and each in its standard form. What
// does not fit is ErrUnfit; the error says what, and what to do.
func (b Basics) Checked() (Basics, error) {
	out := Basics{
		Name: entry.Name(b.Name), Language: entry.Clean(b.Language), Region: strings.ToUpper(entry.Clean(b.Region)),
		TimeZone: entry.Clean(b.TimeZone), Currency: strings.ToUpper(entry.Clean(b.Currency)),
	}
	if out.Name == "" || len([]rune(out.Name)) > entry.LongestName {
		return b, fmt.Errorf("%w: the organisation needs a name of at most %d characters", ErrUnfit, entry.LongestName)
	}
	tag, ok := entry.Language(out.Language)
	if !ok {
		return b, fmt.Errorf("%w: %q is no language that is known", ErrUnfit, b.Language)
	}
	out.Language = tag
	if _, ok := CountryOf(out.Region); !ok {
		return b, fmt.Errorf("%w: %q is no country that is known; name it by its two letters, such as GB", ErrUnfit, b.Region)
	}
	if err := checkZone(out.TimeZone); err != nil {
		return b, err
	}
	if _, err := currency.ParseISO(out.Currency); err != nil {
		return b, fmt.Errorf("%w: %q is no currency that is known; name it by its three letters, such as GBP", ErrUnfit, b.Currency)
	}
	return out, nil
}

// checkZone refuses a time zone that is not in the IANA database, and “Local”, which
// is another on every machine.
func checkZone(zone string) error {
	if _, err := time.LoadLocation(zone); err != nil || zone == "" || zone == "Local" {
		return fmt.Errorf("%w: %q is no time zone that is known; name one such as Europe/London", ErrUnfit, zone)
	}
	return nil
}
