package office

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/plan"
)

// Profile is what an organisation is and how it appears to those it writes to.
type Profile struct {
	Basics
	MailName     string  `json:"mailName" maxLength:"200" doc:"Whom emails are from"`
	MailFrom     string  `json:"mailFrom" maxLength:"200"`
	ReturnDomain string  `json:"returnDomain" maxLength:"200" doc:"Mail to it comes back to the program"`
	NumberFrom   string  `json:"numberFrom" maxLength:"40" doc:"Which texts and calls show; empty for that of the gateway"`
	TextRates    []Price `json:"textRates" maxItems:"300" doc:"For each part of a text"`
	CallRates    []Price `json:"callRates" maxItems:"300" doc:"For each started minute of a call"`
}

// Price is what numbers that begin in a way cost.
type Price struct {
	Prefix string `json:"prefix" maxLength:"10" doc:"Such as +44; empty for all other numbers"`
	Price  string `json:"price" maxLength:"30" doc:"In whole units of the currency, such as 0.038"`
}

var domainForm = regexp.MustCompile(`^([a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z0-9-]{2,63}$`)

// Checked is a profile as it is kept, with its rates. What does not fit is ErrUnfit.
func (s Profile) Checked() (out Profile, rates plan.Rates, err error) {
	out = s
	if out.Basics, err = s.Basics.Checked(); err != nil {
		return s, rates, err
	}
	out.MailName = cmp.Or(entry.Name(s.MailName), out.Name)
	if out.MailFrom, err = entry.Mailbox(entry.Clean(s.MailFrom)); err != nil {
		return s, rates, fmt.Errorf("%w: the address that emails come from: %w", ErrUnfit, err)
	}
	_, ownDomain, _ := strings.Cut(out.MailFrom, "@")
	out.ReturnDomain = cmp.Or(strings.ToLower(entry.Clean(s.ReturnDomain)), ownDomain)
	if !domainForm.MatchString(out.ReturnDomain) {
		return s, rates, fmt.Errorf("%w: %q is no domain to which mail can come back", ErrUnfit, s.ReturnDomain)
	}
	if number := entry.Clean(s.NumberFrom); number != "" {
		if out.NumberFrom, err = phone.Parse(number, out.Region); err != nil {
			return s, rates, fmt.Errorf("%w: the number of texts and calls: %w", ErrUnfit, err)
		}
	}
	if rates.TextPart, err = pricesOf(s.TextRates, out.Currency); err != nil {
		return s, rates, fmt.Errorf("%w: what a text costs: %w", ErrUnfit, err)
	}
	if rates.VoiceMinute, err = pricesOf(s.CallRates, out.Currency); err != nil {
		return s, rates, fmt.Errorf("%w: what a call costs: %w", ErrUnfit, err)
	}
	out.TextRates, out.CallRates = Prices(rates.TextPart, out.Currency), Prices(rates.VoiceMinute, out.Currency)
	return out, rates, nil
}

var prefixForm = regexp.MustCompile(`^(\+[1-9][0-9]{0,7})?$`)

func pricesOf(list []Price, code string) ([]plan.Rate, error) {
	rates := make([]plan.Rate, 0, len(list))
	for _, p := range list {
		prefix := strings.ReplaceAll(entry.Clean(p.Prefix), " ", "")
		if !prefixForm.MatchString(prefix) {
			return nil, fmt.Errorf("%q is no beginning of a number; write it as +44", p.Prefix)
		}
		if slices.ContainsFunc(rates, func(r plan.Rate) bool { return r.Prefix == prefix }) {
			return nil, fmt.Errorf("there are two prices for %s", cmp.Or(prefix, "all other numbers"))
		}
		price, err := money.Parse(p.Price, code)
		if err != nil {
			return nil, err
		}
		rates = append(rates, plan.Rate{Prefix: prefix, Price: price})
	}
	slices.SortFunc(rates, func(a, b plan.Rate) int { return cmp.Compare(a.Prefix, b.Prefix) })
	return rates, nil
}

// Prices are rates as they are typed.
func Prices(rates []plan.Rate, code string) []Price {
	list := make([]Price, len(rates))
	for i, r := range rates {
		list[i] = Price{Prefix: r.Prefix, Price: r.Price.Exact(code)}
	}
	return list
}

// Changes say in words what differs between profiles, for the list of changes.
func (s Profile) Changes(after Profile) []string {
	var said []string
	for _, c := range []struct{ what, before, after string }{
		{"name", s.Name, after.Name}, {"language", s.Language, after.Language}, {"country", s.Region, after.Region},
		{"time zone", s.TimeZone, after.TimeZone}, {"currency", s.Currency, after.Currency},
		{"name of emails", s.MailName, after.MailName}, {"address of emails", s.MailFrom, after.MailFrom},
		{"domain of returned mail", s.ReturnDomain, after.ReturnDomain}, {"number", s.NumberFrom, after.NumberFrom},
		{"rates of texts", priceWords(s.TextRates), priceWords(after.TextRates)},
		{"rates of calls", priceWords(s.CallRates), priceWords(after.CallRates)},
	} {
		if c.before != c.after {
			said = append(said, fmt.Sprintf("%s: %s → %s", c.what, cmp.Or(c.before, "none"), cmp.Or(c.after, "none")))
		}
	}
	return said
}

func priceWords(list []Price) string {
	words := make([]string, len(list))
	for i, p := range list {
		words[i] = strings.TrimSpace(cmp.Or(p.Prefix, "others") + " " + p.Price)
	}
	return strings.Join(words, ", ")
}
