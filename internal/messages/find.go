package messages

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/seek"
	"upperlantern/internal/store"
)

// Found is what a search comes to.
type Found struct {
	List []store.Heading
	All  int
	// Words are the conditions in words.
	Words []string
	// Missing are the conditions, by index, that name something that is not there any
	// more, or that whoever looks does not see: nothing is found by them.
	Missing []int
}

// Find returns the messages that somebody may see and looks for.
func (s *Service) Find(
	ctx context.Context, by access.Principal, search seek.Search, first, count int,
) (f Found, err error) {
	l, err := s.Look(ctx, by, search)
	f.Words, f.Missing = l.Words, l.Missing
	if err != nil || len(f.Missing) > 0 {
		return f, err
	}
	l.Sought.First, l.Sought.Count = first, count
	if f.List, f.All, err = s.Store.Search(ctx, l.Sought); err != nil {
		return f, err
	}
	return f, s.awaits(ctx, f.List)
}

// Look is what a search means to whoever looks.
type Look struct {
	Sought store.Sought
	// Words are the conditions in words.
	Words []string
	// Missing are the conditions, by index, that name something that is not there any
	// more, or that whoever looks does not see: nothing is found by them.
	Missing []int
	lookout
}

// Look works out what a search means to somebody.
func (s *Service) Look(ctx context.Context, by access.Principal, search seek.Search) (l Look, err error) {
	if err := search.Validate(); err != nil {
		return l, err
	}
	if l.lookout, err = s.lookout(ctx, by); err != nil {
		return l, err
	}
	meant := slices.Clone(search.Conditions)
	for i, c := range search.Conditions {
		words, known := l.words(c)
		l.Words = append(l.Words, words)
		if !known {
			l.Missing = append(l.Missing, i)
		}
		meant[i].Value = l.meant(c)
	}
	l.Sought = store.Sought{
		Search: seek.Search{Conditions: meant, Order: search.Order}, Accounts: l.authors, Zone: l.zone, Now: s.Now(),
		Groups: func(id int64) []roster.GroupID { return l.Roster.Around(roster.GroupID(id)) },
		Units:  l.unitsIn,
	}
	return l, nil
}

// Named is what a condition names, if it is there and within reach.
func (l Look) Named(c seek.Clause) (name string, known bool) { return l.named(c) }

// Zone is that of the organisation's clocks.
func (l Look) Zone() *time.Location { return l.zone }

// Reaches are the accounts whose messages are seen.
func (l Look) Reaches() []store.Account {
	return slices.DeleteFunc(slices.Clone(l.accounts), func(a store.Account) bool {
		return !slices.Contains(l.authors, a.ID)
	})
}

// lookout is what somebody sees who looks for messages.
type lookout struct {
	Roster       *roster.Roster // what they see of it
	Organisation store.Organisation
	authors      []int64
	accounts     []store.Account
	zone         *time.Location
}

func (s *Service) lookout(ctx context.Context, by access.Principal) (l lookout, err error) {
	if l.authors, err = s.Authors(ctx, by); err != nil {
		return l, err
	}
	if l.accounts, err = s.Store.Accounts(ctx); err != nil {
		return l, err
	}
	if l.Roster, err = s.Store.RosterWithin(ctx, by.Scope); err != nil {
		return l, err
	}
	if l.Organisation, err = s.Store.Organisation(ctx); err != nil {
		return l, err
	}
	l.zone, err = time.LoadLocation(l.Organisation.TimeZone)
	return l, err
}

// Senders are the accounts whose messages somebody may see.
func (s *Service) Senders(ctx context.Context, by access.Principal) ([]store.Account, error) {
	authors, err := s.Authors(ctx, by)
	if err != nil {
		return nil, err
	}
	accounts, err := s.Store.Accounts(ctx)
	return slices.DeleteFunc(accounts, func(a store.Account) bool { return !slices.Contains(authors, a.ID) }), err
}

func (l lookout) unitsIn(id int64) (units []roster.UnitID) {
	for unit := range roster.Below(l.Roster.Units, []roster.UnitID{roster.UnitID(id)}) {
		units = append(units, unit)
	}
	return units
}

// meant is the value of a condition as it is kept: an address in the form in which
// deliveries have it.
func (l lookout) meant(c seek.Clause) string {
	if c.On != seek.OnAddress {
		return c.Value
	}
	if number, err := phone.Parse(c.Value, l.Organisation.Region); err == nil {
		return number
	}
	return strings.ToLower(strings.TrimSpace(c.Value))
}

// words say what a condition looks for; known is false when it names something that is
// not there any more.
func (l lookout) words(c seek.Clause) (words string, known bool) {
	name, known := l.named(c)
	if !known {
		name = "somebody or something that is no longer there"
	}
	switch c.On {
	case seek.OnWords:
		words = "says “" + strings.TrimSpace(c.Value) + "”"
	case seek.OnSender:
		words = "from " + name
	case seek.OnUnit:
		words = "of the unit " + name
		if c.Value == seek.None {
			words = "of no unit"
		}
	case seek.OnGroup:
		words = "to the group " + name
		if c.Value == seek.None {
			words = "to no group"
		}
	case seek.OnLanguage:
		words = "in " + LanguageWords(c.Value)
	case seek.OnCarrier:
		words = "taken by " + c.Value
	case seek.OnPerson:
		words = "to " + name
	case seek.OnAddress:
		words = "to " + phone.Display(l.meant(c))
	case seek.OnUrgency:
		words = c.Value
	case seek.OnChannel:
		words = "by " + plan.ChannelWord(roster.Channel(c.Value))
	case seek.OnState:
		words = stateWords[c.Value]
	case seek.OnMade:
		words = madeWords[c.Value]
	case seek.OnFollows:
		words = followWords[c.Value]
	case seek.OnMissed:
		words = "did not reach everybody"
	case seek.OnLast:
		words = "in the last " + plan.Count(c.Days, "day", "days")
	case seek.OnDays:
		words = daysWords(c)
	}
	if c.Value == seek.Alone {
		words += " alone"
	}
	if c.Not {
		words = "not: " + words
	}
	return words, known
}

var (
	stateWords = map[string]string{
		"draft": "a draft", "held": "on hold", "sending": "going out", "sent": "gone out", "stopped": "stopped",
	}
	madeWords   = map[string]string{"hand": "written by hand", "program": "written by the program"}
	followWords = map[string]string{
		"again": "sent again", "further": "sent to further people", "correction": "a correction", "all-clear": "an all-clear",
	}
)

func daysWords(c seek.Clause) string {
	day := func(d roster.Date) string {
		t, err := time.Parse(time.DateOnly, string(d))
		if err != nil {
			return string(d)
		}
		return t.Format("2 Jan 2006")
	}
	switch {
	case c.From == c.Until:
		return "on " + day(c.From)
	case c.Until == "":
		return "from " + day(c.From) + " on"
	case c.From == "":
		return "until " + day(c.Until)
	}
	return fmt.Sprintf("from %s to %s", day(c.From), day(c.Until))
}

// LanguageWords names what people got: a copy in a language, or the original.
func LanguageWords(tag string) string {
	if tag == "" || tag == seek.Original {
		return "the original"
	}
	return phrase.LanguageName("en", tag)
}

// named is what a condition names, if it is there and within reach.
func (l lookout) named(c seek.Clause) (name string, known bool) {
	if c.Value == seek.None {
		return "", true
	}
	switch c.On {
	case seek.OnUnit:
		name = l.Roster.UnitPath(roster.UnitID(c.ID))
		return name, name != ""
	case seek.OnGroup:
		g, known := l.Roster.Group(roster.GroupID(c.ID))
		if !known {
			return "", false
		}
		return g.Name, true
	case seek.OnPerson:
		at, known := l.Roster.Position(roster.PersonID(c.ID))
		if !known {
			return "", false
		}
		return l.Roster.At(at).Name(), true
	case seek.OnSender:
		at := slices.IndexFunc(l.accounts, func(a store.Account) bool { return a.ID == c.ID })
		if at < 0 || !slices.Contains(l.authors, c.ID) {
			return "", false
		}
		return l.accounts[at].Name, true
	}
	return "", true
}
