// Package reporting runs reports for those who may, keeps them by name, and mails them.
package reporting

import (
	"cmp"
	"context"
	"errors"
	"log/slog"
	"maps"
	"slices"
	"strconv"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/report"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/seek"
	"upperlantern/internal/messages"
	"upperlantern/internal/store"
)

// Service runs reports.
type Service struct {
	Store    *store.Store
	Messages *messages.Service
	Now      func() time.Time
	Log      *slog.Logger
	// Mail hands an email over.
	Mail func(ctx context.Context, to, subject, body string) error
	// Site is where people reach the interface; "" when that is not known.
	Site string
}

// ErrReads means that a condition needs the right to read records.
var ErrReads = errors.New("only who may read records can ask for words, a person or an address")

// Run makes a report for somebody.
func (s *Service) Run(ctx context.Context, by access.Principal, ask report.Ask) (report.Table, error) {
	return s.runOn(ctx, by, ask, s.Now())
}

// runOn makes a report as it is asked for at an instant.
func (s *Service) runOn(
	ctx context.Context, by access.Principal, ask report.Ask, now time.Time,
) (report.Table, error) {
	if err := ask.Validate(); err != nil {
		return report.Table{}, err
	}
	if !by.May(access.ReadRecords) && slices.ContainsFunc(ask.Conditions, reads) {
		return report.Table{}, ErrReads
	}
	l, err := s.Messages.Look(ctx, by, seek.Search{Conditions: ask.Conditions})
	if err != nil {
		return report.Table{}, err
	}
	from, until, err := ask.Span.Days(now.In(l.Zone()))
	if err != nil {
		return report.Table{}, err
	}
	r := running{Service: s, by: by, ask: ask, look: l, from: from, until: until, months: report.Months(from, until)}
	r.look.Sought.Conditions = append(r.look.Sought.Conditions, r.days(from, until))
	t, err := r.table(ctx)
	if err != nil {
		return t, err
	}
	t.About = append([]string{dayWords(from) + " to " + dayWords(until)}, l.Words...)
	if len(l.Missing) > 0 {
		t.Notes = append(t.Notes, "A condition names something that is no longer there: nothing is counted.")
	}
	return t, nil
}

// reads reports whether a condition tells about what was said, or to whom.
func reads(c seek.Clause) bool {
	return c.On == seek.OnWords || c.On == seek.OnPerson || c.On == seek.OnAddress
}

func dayWords(day roster.Date) string {
	t, err := time.Parse(time.DateOnly, string(day))
	if err != nil {
		return string(day)
	}
	return t.Format("2 January 2006")
}

// running is a report that is being made.
type running struct {
	*Service
	by          access.Principal
	ask         report.Ask
	look        messages.Look
	from, until roster.Date
	months      []report.Month
}

func (r running) days(from, until roster.Date) seek.Clause {
	return seek.Clause{On: seek.OnDays, From: from, Until: until}
}

func (r running) table(ctx context.Context) (report.Table, error) {
	switch r.ask.By {
	case report.ByGap:
		return r.gaps(ctx)
	case report.ByBudget:
		return r.budgets(ctx)
	case report.ByLoad:
		return r.load(ctx)
	}
	rows, err := r.count(ctx, r.ask.By, true)
	if err != nil {
		return report.Table{}, err
	}
	total := report.Together(rows)
	if r.ask.By.Overlaps() {
		each, err := r.count(ctx, report.Once, !r.ask.By.Deliveries())
		if err != nil {
			return report.Table{}, err
		}
		rows, total = report.Overlapping(r.ask.By, rows, report.Together(each))
	}
	if r.ask.By == report.ByMonth {
		rows = report.EveryMonth(rows, r.months)
	}
	// Where a row leads, the days stand first.
	asked := r.ask
	if r.ask.By != report.ByMonth {
		asked.Conditions = append([]seek.Clause{r.days(r.from, r.until)}, asked.Conditions...)
	}
	return report.Tabulate(asked, rows, total, r.name), nil
}

// count counts what is looked for; nothing when a condition names what is gone.
func (r running) count(ctx context.Context, by report.By, timed bool) ([]report.Counted, error) {
	if len(r.look.Missing) > 0 {
		return nil, nil
	}
	return r.Store.Count(ctx, r.look.Sought, by, r.months, timed)
}

// name names a row by its key.
func (r running) name(key string) report.Named {
	id, _ := strconv.ParseInt(key, 10, 64)
	switch r.ask.By {
	case report.ByMonth:
		at := slices.IndexFunc(r.months, func(m report.Month) bool { return m.Key == key })
		days := r.days(r.months[at].From, r.months[at].Until)
		return report.Named{Label: report.MonthName(key), Clause: &days}
	case report.BySender:
		return r.numbered(seek.Clause{On: seek.OnSender, ID: id}, "an account that is gone")
	case report.ByUnit:
		if key == "" {
			return report.Named{Label: "the whole organisation", Clause: &seek.Clause{On: seek.OnUnit, Value: seek.None}}
		}
		return r.numbered(seek.Clause{On: seek.OnUnit, ID: id, Value: seek.Alone}, "a unit that is gone")
	case report.ByGroup:
		if key == "" {
			return report.Named{Label: "no group", Clause: &seek.Clause{On: seek.OnGroup, Value: seek.None}}
		}
		return r.numbered(seek.Clause{On: seek.OnGroup, ID: id, Value: seek.Alone}, "a group that is gone")
	case report.ByLanguage:
		if key == report.Nothing {
			return report.Named{Label: "none: they got nothing"}
		}
		return report.Named{
			Label: messages.LanguageWords(key), Clause: &seek.Clause{On: seek.OnLanguage, Value: cmp.Or(key, seek.Original)},
		}
	case report.ByChannel:
		return report.Named{
			Label: plan.ChannelWord(roster.Channel(key)), Clause: &seek.Clause{On: seek.OnChannel, Value: key},
		}
	case report.ByCarrier:
		if key == "" {
			return report.Named{Label: "taken by none"}
		}
		return report.Named{Label: key, Clause: &seek.Clause{On: seek.OnCarrier, Value: key}}
	}
	return report.Named{Label: key, Clause: &seek.Clause{On: seek.OnUrgency, Value: key}}
}

// numbered names what a condition names by its number; what is gone leads nowhere.
func (r running) numbered(c seek.Clause, gone string) report.Named {
	name, known := r.look.Named(c)
	if !known {
		return report.Named{Label: gone}
	}
	return report.Named{Label: name, Clause: &c}
}

func (r running) gaps(ctx context.Context) (report.Table, error) {
	var units []roster.UnitID // nil is all
	if !r.by.Scope.Whole {
		units = slices.AppendSeq([]roster.UnitID{}, maps.Keys(roster.Below(r.look.Roster.Units, r.by.Scope.Units)))
	}
	days, err := r.Store.GapDays(ctx, r.from, r.until, units)
	return report.GapsOverTime(days), err
}

func (r running) load(ctx context.Context) (report.Table, error) {
	people := r.look.Roster
	var everybody []int
	for i := range people.Len() {
		if p := people.At(i); p.Status != roster.Left && !people.Guest(p.ID) {
			everybody = append(everybody, i)
		}
	}
	households := people.Households(everybody)
	c := report.NewCensus(people, households)
	if len(r.look.Missing) == 0 {
		if err := r.Store.EachRecipient(ctx, r.look.Sought, c.Add); err != nil {
			return report.Table{}, err
		}
	}
	return report.Load(c.Burdens(), c.Gone(), r.by.May(access.SeePeople)), nil
}

func (r running) budgets(ctx context.Context) (report.Table, error) {
	spent, err := r.Store.SpentByAuthor(ctx, r.look.Sought, r.months)
	if err != nil {
		return report.Table{}, err
	}
	units := r.look.Roster.Units
	budgets := map[roster.UnitID]money.Amount{}
	for _, b := range r.look.Organisation.Sending.Budgets {
		if r.by.Scope.Covers(scopeOf(b.Unit), units) {
			budgets[b.Unit] = r.look.Organisation.Sending.BudgetOf(b.Unit)
		}
	}
	if r.by.Scope.Whole {
		budgets[0] += 0 // the organisation stands there with or without a budget
	}
	authors := map[int64]roster.Scope{}
	for _, a := range r.look.Reaches() {
		authors[a.ID] = a.Scope
	}
	var list []report.Spent
	total := report.Figures{}
	for _, a := range spent {
		total.Add(report.Figures{Costs: a.Costs})
		for unit := range budgets {
			if scopeOf(unit).Covers(authors[a.Author], units) {
				list = append(list, report.Spent{Unit: unit, Month: a.Month, Costs: a.Costs})
			}
		}
	}
	return report.Budgets(list, total, budgets, r.look.Organisation.Currency, r.months, func(id roster.UnitID) string {
		return cmp.Or(r.look.Roster.UnitPath(id), "the whole organisation")
	}), nil
}

// scopeOf is what a unit reaches; unit 0 is the organisation.
func scopeOf(unit roster.UnitID) roster.Scope {
	if unit == 0 {
		return roster.Scope{Whole: true}
	}
	return roster.Scope{Units: []roster.UnitID{unit}}
}
