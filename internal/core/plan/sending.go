package plan

import (
	"cmp"
	"fmt"
	"time"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/timing"
)

// Sending is how an organisation sends, unless a message says otherwise. The
// zero value honours wishes and limits nothing.
type Sending struct {
	Unwished  bool `json:"unwished,omitempty" doc:"Routine messages do not try the channel first that somebody asked for"`
	LoadLimit int  `json:"loadLimit,omitempty" minimum:"0" maximum:"1000" doc:"The most routine and timely messages that somebody gets in 7 days; 0 is no limit"`
	// Quiet are the hours in which a channel waits, in the recipient's time zone.
	Quiet     map[roster.Channel]timing.Quiet `json:"quiet,omitempty"`
	Testers   []roster.PersonID               `json:"testers,omitempty" maxItems:"100" doc:"To whom exercises of emergencies go"`
	BigFrom   int                             `json:"bigFrom,omitempty" minimum:"0" doc:"From how many people on the number must be typed before sending; 0 is 200"`
	SecondYes bool                            `json:"secondYes,omitempty" doc:"Then somebody else must say yes, instead of the number being typed"`
	Signature roster.Signature                `json:"signature,omitzero" doc:"How the organisation as a whole signs"`
	Postal    roster.AttributeID              `json:"postal,omitempty" doc:"The attribute that holds a postal address, for letters"`
	Reads     roster.AttributeID              `json:"reads,omitempty" doc:"The attribute that names the languages whose copies somebody reads for the organisation"`
	Voiceless []string                        `json:"voiceless,omitempty" maxItems:"200" doc:"The languages that no voice of the gateway speaks, BCP 47"`
	Budgets   []Budget                        `json:"budgets,omitempty" maxItems:"1000"`
	LateAfter int                             `json:"lateAfter,omitempty" minimum:"0" maximum:"10080" doc:"By how many minutes a message may be late, when the program was down, before it waits for a yes; 0 is 60"`
	MayChange int                             `json:"mayChange,omitempty" minimum:"0" maximum:"100000" doc:"For how many people a scheduled message may change since it was checked, before it waits for a yes; 0 is 10"`
	SendAgain bool                            `json:"sendAgain,omitempty" doc:"Emails of which nobody can tell whether they left, since the program ended meanwhile, are sent again; otherwise they are shown and left"`
	RestHours int                             `json:"restHours,omitempty" minimum:"0" maximum:"168" doc:"For how many hours after a job nobody is asked for another one; 0 is none"`
	MailLimit int                             `json:"mailLimit,omitempty" minimum:"0" maximum:"100" doc:"The most megabytes of files that go with an email; 0 is 20"`
}

// Budget is what messages of a unit may cost in a calendar month.
type Budget struct {
	Unit  roster.UnitID `json:"unit,omitempty" doc:"Absent for those who reach the whole organisation"`
	Month int64         `json:"month" minimum:"1" doc:"In minor units of the currency"`
}

// BudgetOf is the budget of a unit, in thousandths of minor units; 0 is none.
func (s Sending) BudgetOf(unit roster.UnitID) money.Amount {
	for _, b := range s.Budgets {
		if b.Unit == unit {
			return money.Amount(b.Month) * money.Minor
		}
	}
	return 0
}

// Late is by how much a message may be late before it waits for a yes.
func (s Sending) Late() time.Duration {
	return time.Duration(cmp.Or(s.LateAfter, usualLate)) * time.Minute
}

// Asks reports whether a scheduled message waits for a yes that changed for so many
// people since it was checked.
func (s Sending) Asks(people int) bool { return people > cmp.Or(s.MayChange, usualChange) }

// Big is from how many people on an audience is big.
func (s Sending) Big() int { return cmp.Or(s.BigFrom, usualBig) }

const (
	usualBig       = 200
	usualChange    = 10 // people
	usualMailLimit = 20
	usualLate      = 60 // minutes
	megabyte       = 1_000_000
)

// LargestMail is how many bytes the files of an email may have together.
func (s Sending) LargestMail() int64 { return int64(cmp.Or(s.MailLimit, usualMailLimit)) * megabyte }

// Validate refuses rules that nothing could follow.
func (s Sending) Validate() error {
	if s.LoadLimit < 0 {
		return fmt.Errorf("the weekly limit is %d, and cannot be less than nothing", s.LoadLimit)
	}
	if s.LateAfter < 0 {
		return fmt.Errorf(
			"a message waits for a yes when it is late by %d minutes, and that cannot be less than nothing", s.LateAfter,
		)
	}
	if s.MayChange < 0 {
		return fmt.Errorf("a message may change for %d people, and that cannot be less than nobody", s.MayChange)
	}
	if s.BigFrom < 0 {
		return fmt.Errorf("an audience is big from %d people on, and that cannot be less than nobody", s.BigFrom)
	}
	for _, tag := range s.Voiceless {
		if known, ok := phrase.Tag(tag); !ok || known != tag {
			return fmt.Errorf("no voice can speak %q, but it is no language", tag)
		}
	}
	for _, b := range s.Budgets {
		if b.Month <= 0 {
			return fmt.Errorf("a monthly budget of %d is none; take it away instead", b.Month)
		}
	}
	for c := range s.Quiet {
		if !c.Valid() {
			return fmt.Errorf("quiet hours: %q is not a channel", c)
		}
	}
	if s.MailLimit < 0 {
		return fmt.Errorf("the limit of an email's files is %d megabytes, and cannot be less than nothing", s.MailLimit)
	}
	return nil
}
