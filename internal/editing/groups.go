package editing

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/match"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/exchange"
	"upperlantern/internal/store"
)

// ownGroup returns a group that the account may change: one of its units or,
// for the whole organisation's, an account that reaches all of it.
func (d View) ownGroup(by access.Principal, id roster.GroupID) (*roster.Group, error) {
	g, ok := d.Roster.Group(id)
	if !ok {
		return nil, store.ErrNotFound
	}
	if !by.Scope.MayEdit(g) {
		return nil, fmt.Errorf("the group “%s” belongs to the whole organisation, which is %w", g.Name, access.ErrNotYours)
	}
	return g, nil
}

// SaveGroup adds a group, or changes the one with the same identifier. Its
// members are another matter: see Fill.
func (g *Editor) SaveGroup(ctx context.Context, by access.Principal, typed roster.Group) (roster.GroupID, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return 0, err
	}
	if typed.ID != 0 {
		before, err := d.ownGroup(by, typed.ID)
		if err != nil {
			return 0, err
		}
		if before.Kind != typed.Kind {
			return 0, fmt.Errorf("%w: a group stays %s; make another one", ErrCannot, before.Kind)
		}
	}
	if !d.Roster.MayBelong(typed.Unit, by.Scope) {
		return 0, fmt.Errorf("%w: choose one of your units for the group", ErrCannot)
	}
	if err := d.Group(&typed); err != nil {
		return 0, fmt.Errorf("%w: %w", ErrCannot, err)
	}
	if typed.ID == 0 {
		typed.ID, err = g.Store.AddGroup(ctx, typed)
	} else {
		whole, _ := g.Store.Roster(ctx)
		typed.Inside = whole.WithHidden(d.Roster, typed)
		err = g.Store.SetGroup(ctx, typed)
	}
	if errors.Is(err, store.ErrTaken) {
		return 0, fmt.Errorf("%w: there is a group called “%s” already", ErrCannot, typed.Name)
	}
	if err == nil {
		g.Changed()
	}
	return typed.ID, err
}

// Preview is what a rule would make of a group.
type Preview struct {
	People int
	Leaves []int // how many each condition leaves
	Words  []string
	Joins  []roster.PersonID
	Goes   []roster.PersonID
}

// PreviewRule says who would join or leave a group, 0 for a new one, by a rule.
func (g *Editor) PreviewRule(
	ctx context.Context, by access.Principal, id roster.GroupID, rule roster.Rule,
) (Preview, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return Preview{}, err
	}
	if err := d.Roster.Check(rule); err != nil {
		return Preview{}, fmt.Errorf("%w: %w", ErrCannot, err)
	}
	people, leaves := d.Roster.Select(rule)
	p := Preview{People: len(people), Leaves: leaves, Words: d.Roster.RuleWords(rule)}
	p.Joins, p.Goes = d.Roster.Moves(id, people)
	return p, nil
}

// DropGroup deletes a group.
func (g *Editor) DropGroup(ctx context.Context, by access.Principal, id roster.GroupID) error {
	d, err := g.View(ctx, by)
	if err != nil {
		return err
	}
	if _, err := d.ownGroup(by, id); err != nil {
		return err
	}
	err = g.Store.DropGroup(ctx, id)
	g.Changed()
	return err
}

// OrderGroups puts groups into the organisation's one order. An account that does
// not reach the whole organisation puts its own groups into each other's places.
func (g *Editor) OrderGroups(ctx context.Context, by access.Principal, ids []roster.GroupID) error {
	d, err := g.View(ctx, by)
	if err != nil {
		return err
	}
	seen := map[roster.GroupID]bool{}
	for _, id := range ids {
		if _, ok := d.Roster.Group(id); !ok || seen[id] {
			return fmt.Errorf("%w: the order names a group twice, or one that no longer exists", ErrCannot)
		}
		seen[id] = true
	}
	whole, err := g.Store.Roster(ctx)
	if err != nil {
		return err
	}
	order, kept := whole.Reorder(ids, func(group *roster.Group) bool {
		_, err := d.ownGroup(by, group.ID)
		return err == nil
	})
	if !kept {
		return fmt.Errorf(
			"%w: only groups of your units change places, and only with each other; the order of the others is for accounts that reach the whole organisation",
			ErrCannot,
		)
	}
	err = g.Store.OrderGroups(ctx, order)
	g.Changed()
	return err
}

// Fill changes who is picked for a group.
func (g *Editor) Fill(
	ctx context.Context, by access.Principal, id roster.GroupID, take roster.Take, people []roster.PersonID,
) (Done, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return Done{}, err
	}
	group, err := d.ownGroup(by, id)
	if err != nil {
		return Done{}, err
	}
	if group.Kind == roster.ByRule {
		return Done{}, fmt.Errorf("%w: “%s” gets its people by rule", ErrCannot, group.Name)
	}
	e := &roster.Edit{Kind: roster.Changed, People: d.Roster.Fill(group, take, people)}
	words := "taken out of "
	if take == roster.TakeAdd {
		words = "added to "
	}
	e.Said = plan.Count(len(e.People), "person ", "people ") + words + group.Name
	done, _, err := g.apply(ctx, by, e)
	if err == nil && group.Unnamed {
		_, err = g.SaveGroup(ctx, by, *group)
	}
	return done, err
}

// Match finds the people whom a pasted list means.
func (g *Editor) Match(ctx context.Context, by access.Principal, text string) ([]match.Found, *roster.Roster, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return nil, nil, err
	}
	return match.List(d.Roster, text, d.Region), d.Roster, nil
}

// MatchTable finds the people whom the rows of a file mean, by the surest of
// the columns that it has.
func (g *Editor) MatchTable(
	ctx context.Context, by access.Principal, t *exchange.Table,
) ([]match.Found, *roster.Roster, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return nil, nil, err
	}
	mapping := intake.Guess(t.Header, t.Rows, d.Roster.Attributes)
	var lines []string
	var at []int
	for _, row := range t.Rows {
		if said := intake.Means(mapping, row.Cells); said != "" {
			lines, at = append(lines, said), append(at, row.Line)
		}
	}
	found := match.List(d.Roster, strings.Join(lines, "\n"), d.Region)
	for i := range found {
		found[i].Line = at[found[i].Line-1]
	}
	return found, d.Roster, nil
}
