// Package editing changes the roster on behalf of accounts, within what
// each account reaches.
package editing

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/importer"
	"upperlantern/internal/store"
)

// Editor changes the roster and the settings for accounts.
type Editor struct {
	Store *store.Store
	Now   func() time.Time
	// Changed is told that the roster is not what it was. It must not block.
	Changed func()
}

// Errors that callers tell apart.
var (
	ErrNobody = errors.New("nobody is chosen whom you may change")
	// ErrCannot comes with the reason why something cannot be done.
	ErrCannot = errors.New("this cannot be done")
)

// Refused says why a sheet was not saved.
type Refused struct{ Remarks []entry.Remark }

func (r *Refused) Error() string {
	first := r.Remarks[0]
	return strings.TrimSpace(first.Value + " " + first.Reason)
}

// Overtaken says what somebody else changed since a sheet was read.
type Overtaken struct{ Since []store.PersonEdit }

func (*Overtaken) Error() string { return "somebody else changed this person in the meantime" }

// View is the roster as an account sees it, with all that reading takes.
type View struct {
	Roster       *roster.Roster
	Organisation store.Organisation
	entry.Reader
}

// View returns the roster as an account sees it.
func (g *Editor) View(ctx context.Context, by access.Principal) (View, error) {
	o, err := g.Store.Organisation(ctx)
	if err != nil {
		return View{}, err
	}
	r, err := g.Store.RosterWithin(ctx, by.Scope)
	return View{r, o, entry.Reader{Roster: r, Region: o.Region, Roles: o.AllRoles(), Zone: importer.KnownZone}}, err
}

// Done is what a change came to.
type Done struct {
	Edit   int64 // 0 when nothing changed
	Said   string
	People int
	Person roster.PersonID // the one it is about, if it is about one
	Issues []entry.Remark  // what is unlikely, of a saved sheet
}

func (g *Editor) apply(ctx context.Context, by access.Principal, e *roster.Edit) (Done, store.Applied, error) {
	done := Done{Said: e.Said, People: len(e.People)}
	if len(e.People) == 0 {
		return done, store.Applied{}, nil
	}
	applied, err := g.Store.Apply(ctx, by.ID, e, g.Now(), nil)
	if err != nil {
		return done, applied, err
	}
	g.Changed()
	done.Edit = applied.Edit
	return done, applied, nil
}

// Check reads a sheet without saving it.
func (g *Editor) Check(ctx context.Context, by access.Principal, typed *roster.Sheet) ([]entry.Remark, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return nil, err
	}
	_, issues := d.Read(d.Roster.Sheet(typed.ID), typed)
	return issues, nil
}

// Add puts somebody on the roster.
func (g *Editor) Add(ctx context.Context, by access.Principal, typed *roster.Sheet) (Done, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return Done{}, err
	}
	fresh := typed.Clone()
	fresh.ID = -1
	for i, t := range fresh.Ties { // the person is called 0 until they have a number
		fresh.Ties[i].Guardian, fresh.Ties[i].Dependent = orFresh(t.Guardian), orFresh(t.Dependent)
	}
	sheet, issues := d.Read(nil, fresh)
	if refused := entry.Refusals(issues); len(refused) > 0 {
		return Done{}, &Refused{issues}
	}
	if !d.Roster.MayBelong(sheet.Unit, by.Scope) {
		return Done{}, &Refused{[]entry.Remark{{Field: "unit", Reason: "choose one of your units", Refused: true}}}
	}
	done, applied, err := g.apply(ctx, by, &roster.Edit{
		Kind: roster.Added, Said: "added " + sheet.Name(), People: []roster.PersonEdit{{After: sheet}},
	})
	done.Issues, done.Person = issues, applied.IDs[-1]
	return done, err
}

func orFresh(id roster.PersonID) roster.PersonID {
	if id == 0 {
		return -1
	}
	return id
}

// Save keeps the changes of a sheet. When somebody else changed the person
// since the sheet was read, nothing is kept and the error is *Overtaken.
func (g *Editor) Save(ctx context.Context, by access.Principal, typed *roster.Sheet) (Done, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return Done{}, err
	}
	before, err := d.own(typed.ID)
	if err != nil {
		return Done{}, err
	}
	if before.Version != typed.Version {
		return Done{}, g.overtaken(ctx, typed)
	}
	sheet, issues := d.Read(before, typed)
	if refused := entry.Refusals(issues); len(refused) > 0 {
		return Done{}, &Refused{issues}
	}
	if sheet.Unit != before.Unit && !d.Roster.MayBelong(sheet.Unit, by.Scope) {
		return Done{}, &Refused{[]entry.Remark{{Field: "unit", Reason: "choose one of your units", Refused: true}}}
	}
	sheet.ReachedOn = before.ReachedOn
	e := &roster.Edit{Kind: roster.Changed, Said: "changed " + sheet.Name() + lifting(d.Roster, before, sheet)}
	if len(d.Roster.Differ(before, sheet, d.Roster)) > 0 || !slices.Equal(before.Addresses, sheet.Addresses) {
		e.People = []roster.PersonEdit{{Before: before, After: sheet}}
	}
	done, _, err := g.apply(ctx, by, e)
	if errors.Is(err, store.ErrConflict) {
		return done, g.overtaken(ctx, typed)
	}
	done.Issues, done.Person = issues, sheet.ID
	return done, err
}

// lifting says, for the history, whose barred contact a sheet lifts and why.
func lifting(r *roster.Roster, before, after *roster.Sheet) string {
	said := ""
	for _, t := range roster.Lifted(before, after) {
		said += "; lifted the bar on contact with " + r.PersonName(t.Other(after.ID))
	}
	if said != "" {
		said += ": " + after.LiftReason
	}
	return said
}

func (g *Editor) overtaken(ctx context.Context, typed *roster.Sheet) error {
	history, err := g.Store.History(ctx, typed.ID)
	if err != nil {
		return err
	}
	newer := slices.DeleteFunc(history, func(e store.PersonEdit) bool { return e.Version <= typed.Version })
	return &Overtaken{newer}
}

// own returns the sheet of somebody whom the account may change.
func (d View) own(id roster.PersonID) (*roster.Sheet, error) {
	s := d.Roster.Sheet(id)
	if s == nil {
		return nil, store.ErrNotFound
	}
	if d.Roster.Guest(id) {
		return nil, fmt.Errorf("%s %w", s.Name(), access.ErrNotYours)
	}
	return s, nil
}

// Alter does one thing to many people. Those beyond the account's reach stay
// as they are.
func (g *Editor) Alter(
	ctx context.Context, by access.Principal, people []roster.PersonID, a entry.Alteration,
) (Done, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return Done{}, err
	}
	if a.Do == "unit" && !d.Roster.MayBelong(a.Unit, by.Scope) {
		return Done{}, fmt.Errorf("%w: choose one of your units", ErrCannot)
	}
	e, err := d.Alter(people, a)
	if err != nil {
		return Done{}, fmt.Errorf("%w: %w", ErrCannot, err)
	}
	e.Said = plan.Count(len(e.People), "person ", "people ") + e.Said
	done, _, err := g.apply(ctx, by, e)
	return done, err
}

// Removal says what removing people would take along.
func (g *Editor) Removal(ctx context.Context, by access.Principal, people []roster.PersonID) (roster.Taken, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return roster.Taken{}, err
	}
	return d.Roster.Removal(d.sheets(people)), nil
}

// sheets are those of the people whom the account may change, each once.
func (d View) sheets(people []roster.PersonID) []*roster.Sheet {
	var list []*roster.Sheet
	seen := map[roster.PersonID]bool{}
	for _, id := range people {
		if s, err := d.own(id); err == nil && !seen[id] {
			seen[id] = true
			list = append(list, s)
		}
	}
	return list
}

// Remove takes people off the roster. What they got stays on record.
func (g *Editor) Remove(ctx context.Context, by access.Principal, people []roster.PersonID) (Done, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return Done{}, err
	}
	e := &roster.Edit{Kind: roster.Removed}
	for _, s := range d.sheets(people) {
		e.People = append(e.People, roster.PersonEdit{Before: s})
	}
	if len(e.People) == 0 {
		return Done{}, ErrNobody
	}
	e.Said = "removed " + plan.Count(len(e.People), "person", "people")
	if len(e.People) == 1 {
		e.Said = "removed " + e.People[0].Before.Name()
	}
	done, _, err := g.apply(ctx, by, e)
	return done, err
}

// Merge makes one of people who are one: keep stays and takes what the others
// have, their messages too.
func (g *Editor) Merge(
	ctx context.Context, by access.Principal, keep roster.PersonID, others []roster.PersonID,
) (Done, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return Done{}, err
	}
	whole, err := g.Store.Roster(ctx)
	if err != nil {
		return Done{}, err
	}
	e := &roster.Edit{Kind: roster.Merged, Merged: map[roster.PersonID]roster.PersonID{}}
	var sheets []*roster.Sheet
	for _, id := range slices.Concat([]roster.PersonID{keep}, others) {
		if _, err := d.own(id); err != nil {
			return Done{}, err
		}
		if slices.ContainsFunc(sheets, func(s *roster.Sheet) bool { return s.ID == id }) {
			return Done{}, fmt.Errorf("%w: a person cannot be merged with themselves", ErrCannot)
		}
		sheets = append(sheets, whole.Sheet(id)) // with the groups that the account does not see
	}
	if len(sheets) < 2 {
		return Done{}, fmt.Errorf("%w: choose at least two people", ErrCannot)
	}
	e.People = []roster.PersonEdit{{Before: sheets[0], After: roster.Merge(sheets[0], sheets[1:]...)}}
	for _, s := range sheets[1:] {
		e.Merged[s.ID] = keep
		e.People = append(e.People, roster.PersonEdit{Before: s})
	}
	e.Said = "merged " + plan.Count(len(sheets), "person", "people") + " into " + sheets[0].Name()
	done, _, err := g.apply(ctx, by, e)
	done.Person = keep
	return done, err
}

// Undo takes an edit back. Accounts that do not reach the whole organisation
// take back their own.
func (g *Editor) Undo(ctx context.Context, by access.Principal, id int64) (store.Undone, string, error) {
	e, err := g.Store.Edit(ctx, id)
	if err != nil {
		return store.Undone{}, "", err
	}
	if !by.Scope.Whole && e.Owner != by.ID {
		return store.Undone{}, "", store.ErrNotFound
	}
	if e.Kind == roster.Set {
		return store.Undone{}, "", fmt.Errorf("%w: change a setting back in Settings", ErrCannot)
	}
	undone, err := g.Store.Undo(ctx, by.ID, id, g.Now())
	if err != nil {
		return undone, "", err
	}
	g.Changed()
	said := "Undone: " + e.Said + "."
	if n := len(undone.Kept); n > 0 {
		said += " " + plan.Count(n, "person was", "people were") + " changed since and stayed as they are."
	}
	if undone.Bars > 0 {
		said += " A barred contact stays barred: lift it on the person, with the reason."
	}
	return undone, said, nil
}
