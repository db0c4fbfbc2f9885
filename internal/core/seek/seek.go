// Package seek says which messages are looked for: conditions, one on top of the
// other, an order, and how words are found.
package seek

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"upperlantern/internal/core/roster"
)

// On is what a condition looks at.
type On string

const (
	OnWords   On = "words"   // in the subject and in what it says, in any of its languages
	OnSender  On = "sender"  // an account
	OnUnit    On = "unit"    // that writes, with the units inside it
	OnUrgency On = "urgency" // routine, timely or emergency
	OnChannel On = "channel" // that carried some of it
	OnGroup   On = "group"   // named in its audience, or nested in one that is
	OnPerson  On = "person"  // a recipient
	OnAddress On = "address" // a mailbox, or a number in E.164, to which it went
	OnDays    On = "days"    // it left on one of them, the first and the last among them
	OnLast    On = "last"    // it left within the last so many days, today among them
	OnState   On = "state"   // draft, held, sending, sent or stopped
	OnMade    On = "made"    // by hand, or by the program
	OnFollows On = "follows" // how it follows another one
	OnMissed  On = "missed"  // it did not reach everybody

	OnLanguage On = "language" // somebody got it in its copy in that language, BCP 47, or the original
	OnCarrier  On = "carrier"  // one that took some of it, by its name
)

// Ons lists everything that a condition can look at.
var Ons = []On{
	OnWords, OnSender, OnUnit, OnUrgency, OnChannel, OnGroup, OnPerson, OnAddress, OnDays, OnLast, OnState, OnMade,
	OnFollows, OnMissed, OnLanguage, OnCarrier,
}

// Values of a unit or a group besides its number.
const (
	Alone = "alone" // without what is inside it
	None  = "none"  // of no unit, or to no group
)

// Original is the value of OnLanguage for what was written, not a copy.
const Original = "original"

// Clause narrows what is looked for. Just what belongs to its kind is set.
type Clause struct {
	On    On          `json:"on"`
	Not   bool        `json:"not,omitempty" doc:"Those instead for which it does not hold"`
	Value string      `json:"value,omitempty" maxLength:"300" doc:"Words, an address, or one of the values of its kind"`
	ID    int64       `json:"id,omitempty" doc:"Of an account, a unit, a group or a person"`
	From  roster.Date `json:"from,omitempty" doc:"The first day, ISO 8601"`
	Until roster.Date `json:"until,omitempty" doc:"The last day, ISO 8601"`
	Days  int         `json:"days,omitempty" minimum:"0" maximum:"3660"`
}

// Order is by what messages are sorted.
type Order string

const (
	Newest     Order = "newest"
	Oldest     Order = "oldest"
	ByTitle    Order = "title"
	Most       Order = "recipients"  // most recipients first
	MostMissed Order = "not-reached" // most who were not reached first
	Dearest    Order = "cost"        // what cost most first
)

// Orders lists every order.
var Orders = []Order{Newest, Oldest, ByTitle, Most, MostMissed, Dearest}

// Search is what is looked for.
type Search struct {
	Conditions []Clause `json:"conditions" maxItems:"20"`
	Order      Order    `json:"order,omitempty" enum:"newest,oldest,title,recipients,not-reached,cost,"`
}

// ErrUnfit means that a search cannot be understood.
var ErrUnfit = errors.New("this cannot be looked for")

// values are those of the kinds that have a few.
var values = map[On][]string{
	OnUrgency: {"routine", "timely", "emergency"}, OnChannel: {"email", "text", "voice", "push"},
	OnState: {"draft", "held", "sending", "sent", "stopped"}, OnMade: {"hand", "program"},
	OnFollows: {"again", "further", "correction", "all-clear"},
}

// Validate refuses what nothing can be found by, with the condition that is wrong.
func (s Search) Validate() error {
	if s.Order != "" && !slices.Contains(Orders, s.Order) {
		return fmt.Errorf("%w: %q is no order", ErrUnfit, s.Order)
	}
	for i, c := range s.Conditions {
		if err := c.validate(); err != nil {
			return fmt.Errorf("%w: condition %d: %w", ErrUnfit, i+1, err)
		}
	}
	return nil
}

func (c Clause) validate() error {
	switch c.On {
	case OnWords:
		if len(Tokens(c.Value)) == 0 {
			return errors.New("there is no word in it")
		}
	case OnAddress, OnLanguage, OnCarrier:
		if strings.TrimSpace(c.Value) == "" {
			return fmt.Errorf("no %s is named", c.On)
		}
	case OnSender, OnUnit, OnGroup, OnPerson:
		if c.ID <= 0 && !(c.Value == None && (c.On == OnUnit || c.On == OnGroup)) {
			return fmt.Errorf("no %s is named", c.On)
		}
	case OnDays:
		return c.validateDays()
	case OnLast:
		if c.Days <= 0 {
			return errors.New("it does not say how many days")
		}
	case OnMissed:
	default:
		list, known := values[c.On]
		if !known {
			return fmt.Errorf("%q is nothing to look at", c.On)
		}
		if !slices.Contains(list, c.Value) {
			return fmt.Errorf("%q is none of %s", c.Value, strings.Join(list, ", "))
		}
	}
	return nil
}

func (c Clause) validateDays() error {
	for _, day := range []roster.Date{c.From, c.Until} {
		if _, err := time.Parse(time.DateOnly, string(day)); day != "" && err != nil {
			return fmt.Errorf("%q is no day such as 2026-11-28", day)
		}
	}
	if c.From == "" && c.Until == "" {
		return errors.New("neither the first nor the last day is named")
	}
	if c.From != "" && c.Until != "" && c.From > c.Until {
		return fmt.Errorf("the first day, %s, comes after the last, %s", c.From, c.Until)
	}
	return nil
}

// Span is from when until when a condition on days holds, the end not included, on
// clocks and at an instant. A zero time is no bound.
func (c Clause) Span(zone *time.Location, now time.Time) (from, until time.Time) {
	start := func(day roster.Date, more int) time.Time {
		t, err := time.ParseInLocation(time.DateOnly, string(day), zone)
		if err != nil {
			return time.Time{}
		}
		return time.Date(t.Year(), t.Month(), t.Day()+more, 0, 0, 0, 0, zone)
	}
	if c.On == OnLast {
		today := now.In(zone)
		return time.Date(today.Year(), today.Month(), today.Day()-c.Days+1, 0, 0, 0, 0, zone),
			time.Date(today.Year(), today.Month(), today.Day()+1, 0, 0, 0, 0, zone)
	}
	return start(c.From, 0), start(c.Until, 1)
}

// unspaced are scripts whose words are not told apart by spaces (Unicode UAX #29).
var unspaced = []*unicode.RangeTable{
	unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Thai, unicode.Lao, unicode.Khmer, unicode.Myanmar,
}

// Indexed is a text as it is kept to be found: its words, folded, and each character
// by itself of scripts without spaces.
func Indexed(text string) string {
	var b strings.Builder
	for _, r := range roster.Fold(text) {
		if unicode.In(r, unspaced...) {
			b.WriteRune(' ')
			b.WriteRune(r)
			b.WriteRune(' ')
			continue
		}
		b.WriteRune(r)
	}
	return strings.Join(strings.Fields(b.String()), " ")
}

// Tokens are the words that are looked for, each as characters that stand beside one
// another.
func Tokens(typed string) []string {
	var list []string
	for word := range strings.FieldsSeq(roster.Fold(typed)) {
		list = append(list, Indexed(word))
	}
	return list
}
