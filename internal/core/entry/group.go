package entry

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
)

// groupSeparators stand between groups in roster files.
const groupSeparators = ";>|"

// Group brings a typed group into the form that is kept, or refuses it with the
// reason.
func (x Reader) Group(g *roster.Group) error {
	g.Name, g.Place, g.Reference = Name(g.Name), Name(g.Place), Name(g.Reference)
	switch {
	case g.Name == "" && !g.Unnamed:
		return fmt.Errorf("the %s needs a name", noun(g))
	case len([]rune(g.Name)) > LongestName:
		return fmt.Errorf("the name has more than %d characters", LongestName)
	case strings.ContainsAny(g.Name, groupSeparators):
		return fmt.Errorf("the name of a %s cannot hold %s: they separate groups in roster files", noun(g), strings.Join(
			strings.Split(groupSeparators, ""), " ",
		))
	case g.Starts != nil && g.Ends != nil && g.Ends.Before(*g.Starts):
		return errors.New("the job ends before it starts")
	}
	if g.Unnamed {
		g.Name = x.Roster.AutomaticName(g.ID)
	}
	if err := x.numbers(g); err != nil {
		return err
	}
	if err := x.nesting(g); err != nil {
		return err
	}
	return x.rule(g)
}

// noun is what a group is called in a sentence.
func noun(g *roster.Group) string {
	if g.Kind == roster.Job {
		return "job"
	}
	return "group"
}

func (x Reader) numbers(g *roster.Group) error {
	g.Identity.Name = Name(g.Identity.Name)
	for _, number := range []*string{&g.Identity.Number, &g.Identity.Caller} {
		if *number = Clean(*number); *number == "" {
			continue
		}
		e164, err := phone.Parse(*number, x.Region)
		if err != nil {
			return err
		}
		*number = e164
	}
	return nil
}

func (x Reader) nesting(g *roster.Group) error {
	for _, id := range g.Inside {
		if _, ok := x.Roster.Group(id); !ok {
			return errors.New("a group to be nested no longer exists")
		}
		if path := x.Roster.Closes(g.ID, id); g.ID != 0 && path != nil {
			return fmt.Errorf("the nesting would close a circle: %s", strings.Join(append([]string{g.Name}, path...), " › "))
		}
	}
	return nil
}

func (x Reader) rule(g *roster.Group) error {
	if g.Kind != roster.ByRule {
		g.Rule = nil
		return nil
	}
	if len(g.Rule) == 0 {
		return errors.New("a group by rule needs at least one condition")
	}
	if err := x.Roster.Check(g.Rule); err != nil {
		return err
	}
	if path := x.Roster.Circles(g.ID, g.Rule); g.ID != 0 && path != nil {
		return fmt.Errorf("the rule would look at the group itself: %s", strings.Join(path, " › "))
	}
	return nil
}

// Unit brings a typed unit into the form that is kept, or refuses it with the
// reason. Where a reach begins, the unit stays where it is.
func (x Reader) Unit(u *roster.Unit, reach roster.Scope) error {
	u.Name, u.Prefix, u.Footer = Name(u.Name), Name(u.Prefix), strings.TrimSpace(u.Footer)
	same := func(o roster.Unit) bool {
		return o.ID != u.ID && o.Parent == u.Parent && strings.EqualFold(o.Name, u.Name)
	}
	switch {
	case u.Name == "" || len([]rune(u.Name)) > LongestName:
		return fmt.Errorf("a unit needs a name of at most %d characters", LongestName)
	case reach.Begins(u.ID):
		return nil
	case u.Parent != 0 && x.Roster.UnitPath(u.Parent) == "":
		return errors.New("the unit above no longer exists")
	case !x.Roster.MayBelong(u.Parent, reach):
		return errors.New("choose one of your units above it")
	case u.ID != 0 && u.Parent != 0 && roster.Below(x.Roster.Units, []roster.UnitID{u.ID})[u.Parent]:
		return fmt.Errorf("“%s” would be inside itself", u.Name)
	case slices.ContainsFunc(x.Roster.Units, same):
		return fmt.Errorf("there is a unit “%s” here already", u.Name)
	}
	return nil
}
