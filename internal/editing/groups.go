package editing

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/match"
	"upperlantern/internal/core/phone"
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
	if g.Unit == 0 && !by.Scope.Whole {
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
	if !g.mayOwn(by, d.Roster, typed.Unit) {
		return 0, fmt.Errorf("%w: choose one of your units for the group", ErrCannot)
	}
	if err := d.checkGroup(&typed); err != nil {
		return 0, fmt.Errorf("%w: %w", ErrCannot, err)
	}
	if typed.ID == 0 {
		typed.ID, err = g.Store.AddGroup(ctx, typed)
	} else {
		whole, _ := g.Store.Roster(ctx)
		typed.Inside = keepHidden(whole, d.Roster, typed)
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

// keepHidden adds the nested groups that the account does not see to those it
// chose, so that saving does not lose them.
func keepHidden(whole, seen *roster.Roster, typed roster.Group) []roster.GroupID {
	inside := slices.Clone(typed.Inside)
	before, ok := whole.Group(typed.ID)
	if !ok {
		return inside
	}
	for _, id := range before.Inside {
		if _, visible := seen.Group(id); !visible {
			inside = append(inside, id)
		}
	}
	return inside
}

// groupSeparators stand between groups in roster files.
const groupSeparators = ";>|"

func (d View) checkGroup(g *roster.Group) error {
	g.Name = entry.Name(g.Name)
	g.Place = entry.Name(g.Place)
	switch {
	case g.Name == "" && !g.Unnamed:
		return errors.New("the group needs a name")
	case len([]rune(g.Name)) > entry.LongestName:
		return fmt.Errorf("the name has more than %d characters", entry.LongestName)
	case strings.ContainsAny(g.Name, groupSeparators):
		return fmt.Errorf("a group's name cannot hold %s: they separate groups in roster files", strings.Join(
			strings.Split(groupSeparators, ""), " ",
		))
	case g.Starts != nil && g.Ends != nil && g.Ends.Before(*g.Starts):
		return errors.New("the job ends before it starts")
	}
	if g.Unnamed {
		g.Name = d.Roster.AutomaticName(g.ID)
	}
	if err := d.checkNumbers(g); err != nil {
		return err
	}
	for _, id := range g.Inside {
		if _, ok := d.Roster.Group(id); !ok {
			return errors.New("a group to be nested no longer exists")
		}
		if path := d.Roster.Closes(g.ID, id); g.ID != 0 && path != nil {
			return fmt.Errorf("the nesting would close a circle: %s", strings.Join(append([]string{g.Name}, path...), " › "))
		}
	}
	if g.Kind != roster.ByRule {
		g.Rule = nil
		return nil
	}
	if len(g.Rule) == 0 {
		return errors.New("a group by rule needs at least one condition")
	}
	if err := d.Roster.Check(g.Rule); err != nil {
		return err
	}
	if path := d.Roster.Circles(g.ID, g.Rule); g.ID != 0 && path != nil {
		return fmt.Errorf("the rule would look at the group itself: %s", strings.Join(path, " › "))
	}
	return nil
}

func (d View) checkNumbers(g *roster.Group) error {
	g.Identity.Name = entry.Name(g.Identity.Name)
	for _, number := range []*string{&g.Identity.Number, &g.Identity.Caller} {
		if *number = entry.Clean(*number); *number == "" {
			continue
		}
		e164, err := phone.Parse(*number, d.Region)
		if err != nil {
			return err
		}
		*number = e164
	}
	return nil
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
	now := map[roster.PersonID]bool{}
	if group, ok := d.Roster.Group(id); ok {
		for _, m := range group.Members {
			now[m] = d.Roster.Person(m) != nil
		}
	}
	for _, i := range people {
		person := d.Roster.At(i).ID
		if !now[person] {
			p.Joins = append(p.Joins, person)
		}
		delete(now, person)
	}
	for i := range d.Roster.Len() {
		if person := d.Roster.At(i).ID; now[person] {
			p.Goes = append(p.Goes, person)
		}
	}
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

// How people are brought into a group.
const (
	TakeAdd    = "add"
	TakeOnly   = "only" // keep only those who are in both
	TakeRemove = "remove"
)

// Fill changes who is picked for a group.
func (g *Editor) Fill(
	ctx context.Context, by access.Principal, id roster.GroupID, take string, people []roster.PersonID,
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
	e := d.fill(group, take, people)
	done, _, err := g.apply(ctx, by, e)
	if err == nil && group.Unnamed {
		_, err = g.SaveGroup(ctx, by, *group)
	}
	return done, err
}

func (d View) fill(group *roster.Group, take string, people []roster.PersonID) *roster.Edit {
	e := &roster.Edit{Kind: "edit"}
	change := func(id roster.PersonID, do func(*roster.Sheet)) {
		before := d.Roster.Sheet(id)
		if before == nil || d.Roster.Guest(id) {
			return
		}
		after := before.Clone()
		do(after)
		if len(after.Groups) != len(before.Groups) {
			e.People = append(e.People, roster.PersonEdit{Before: before, After: after})
		}
	}
	words := "taken out of "
	switch take {
	case TakeAdd:
		words = "added to "
		for _, id := range people {
			change(id, func(s *roster.Sheet) { s.Join(group.ID) })
		}
	case TakeRemove:
		for _, id := range people {
			change(id, func(s *roster.Sheet) { s.Leave(group.ID) })
		}
	case TakeOnly:
		keep := map[roster.PersonID]bool{}
		for _, id := range people {
			keep[id] = true
		}
		for _, id := range group.Members {
			if !keep[id] {
				change(id, func(s *roster.Sheet) { s.Leave(group.ID) })
			}
		}
	}
	e.Said = plan.Count(len(e.People), "person ", "people ") + words + group.Name
	return e
}

// Match finds the people whom a pasted list means.
func (g *Editor) Match(ctx context.Context, by access.Principal, text string) ([]match.Found, *roster.Roster, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return nil, nil, err
	}
	return match.List(d.Roster, text, d.Region), d.Roster, nil
}

// identifying are the columns by which a row can mean somebody, the surest first.
var identifying = []intake.Column{
	intake.ExternalID, intake.Email, intake.Mobile, intake.Landline, intake.TextOnly, intake.FullName,
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
	mapping := intake.Guess(t.Header, d.Roster.Attributes)
	var lines []string
	var at []int
	for _, row := range t.Rows {
		if said := means(mapping, row.Cells); said != "" {
			lines, at = append(lines, said), append(at, row.Line)
		}
	}
	found := match.List(d.Roster, strings.Join(lines, "\n"), d.Region)
	for i := range found {
		found[i].Line = at[found[i].Line-1]
	}
	return found, d.Roster, nil
}

// means is what a row says about who is meant.
func means(mapping []intake.Column, cells []string) string {
	value := func(c intake.Column) string {
		i := slices.Index(mapping, c)
		if i < 0 || i >= len(cells) {
			return ""
		}
		first, _, _ := strings.Cut(cells[i], ";")
		return entry.Name(strings.ReplaceAll(first, ",", " "))
	}
	for _, c := range identifying {
		if said := value(c); said != "" {
			return said
		}
	}
	return strings.TrimSpace(value(intake.GivenName) + " " + value(intake.FamilyName))
}
