package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
)

// The units of Quillmere, each below the one before its “>”.
var unitPaths = [][]string{{"Rowing"}, {"Rowing", "Juniors"}, {"Rowing", "Adults"}, {"Flood watch"}}

// signatures are how some units sign.
var signatures = map[string]roster.Signature{
	"Juniors": {
		Prefix: "[Juniors]",
		Footer: "Quillmere Rowing Club, junior squads\nThe Boathouse, Sluice Lane, Quillmere",
	},
	"Flood watch": {Prefix: "[Flood watch]"},
}

// attributes are what Quillmere keeps about its people.
var attributes = []roster.Attribute{
	{Name: "Swim test", Kind: roster.ChoiceAttribute, Choices: []string{"passed", "due"}},
	{Name: "Capsize drill", Kind: roster.DateAttribute},
	{Name: "Sculling level", Kind: roster.NumberAttribute},
	{Name: "Membership form", Kind: roster.ChoiceAttribute, Choices: []string{"returned", "outstanding"}},
	{Name: "Key to the sluice", Kind: roster.YesNoAttribute},
	{Name: "Postal address", Kind: roster.TextAttribute},
	{Name: readsCopies, Kind: roster.TextAttribute},
}

// readsCopies is the attribute of those who read copies for the club.
const readsCopies = "Reads copies in"

// parts makes the units and attributes, and returns the units by name.
func parts(ctx context.Context, s *store.Store) (map[string]roster.UnitID, error) {
	units := map[string]roster.UnitID{}
	for _, path := range unitPaths {
		u := roster.Unit{Name: path[len(path)-1]}
		u.Signature = signatures[u.Name]
		if len(path) > 1 {
			u.Parent = units[path[0]]
		}
		id, err := s.PutUnit(ctx, u)
		if err != nil {
			return nil, err
		}
		units[u.Name] = id
	}
	for _, a := range attributes {
		if _, err := s.PutAttribute(ctx, a); err != nil {
			return nil, err
		}
	}
	return units, nil
}

// arrange does what the office did after the files were loaded.
func arrange(ctx context.Context, s *store.Store, units map[string]roster.UnitID, now time.Time) error {
	account, err := s.AccountByLogin(ctx, "office@quillmere.example")
	if err != nil {
		return err
	}
	a := arranger{
		ctx,
		&editing.Editor{Store: s, Now: func() time.Time { return now }, Changed: func() {}},
		account.Principal(access.Inside),
		now,
	}
	for _, step := range []func() error{
		a.identities, func() error { return a.rules(units) }, func() error { return a.jobs(units["Flood watch"]) }, a.devices, a.postal,
		a.filters, a.correction, a.readers,
	} {
		if err := step(); err != nil {
			return err
		}
	}
	return nil
}

type arranger struct {
	ctx context.Context
	g   *editing.Editor
	by  access.Principal
	now time.Time
}

func (a arranger) roster() (*roster.Roster, error) { return a.g.Store.Roster(a.ctx) }

func (a arranger) save(g roster.Group) error {
	_, err := a.g.SaveGroup(a.ctx, a.by, g)
	if err != nil {
		return fmt.Errorf("group %s: %w", g.Name, err)
	}
	return nil
}

// identities gives groups the name and number that their people know.
func (a arranger) identities() error {
	r, err := a.roster()
	if err != nil {
		return err
	}
	for name, identity := range map[string]roster.Identity{
		"Flood watch":   {Name: "Quillmere Flood Watch", Number: "+447700900110", Caller: "+447700900111"},
		"Junior squads": {Name: "Quillmere Juniors"},
	} {
		g, ok := r.GroupNamed(name)
		if !ok {
			return fmt.Errorf("the files have no group %s", name)
		}
		changed := *g
		changed.Identity = identity
		if err := a.save(changed); err != nil {
			return err
		}
	}
	return nil
}

func (a arranger) attribute(name string) int64 {
	r, err := a.roster()
	if err != nil {
		return 0
	}
	i := slices.IndexFunc(r.Attributes, func(at roster.Attribute) bool { return at.Name == name })
	return int64(r.Attributes[i].ID)
}

func (a arranger) rules(units map[string]roster.UnitID) error {
	juniors := roster.Condition{On: roster.OnRole, Test: roster.Is, Value: string(roster.Dependent)}
	for _, g := range []roster.Group{
		{Name: "Swim test due", Kind: roster.ByRule, Unit: units["Juniors"], Rule: roster.Rule{
			juniors, {On: roster.OnAttribute, Test: roster.Is, ID: a.attribute("Swim test"), Value: "due"},
		}},
		{Name: "Form outstanding", Kind: roster.ByRule, Unit: units["Juniors"], Rule: roster.Rule{
			{On: roster.OnAttribute, Test: roster.Is, ID: a.attribute("Membership form"), Value: "outstanding"},
		}},
		{Name: "Sluice keys", Kind: roster.ByRule, Unit: units["Flood watch"], Rule: roster.Rule{
			{On: roster.OnAttribute, Test: roster.Is, ID: a.attribute("Key to the sluice"), Value: "yes"},
		}},
	} {
		if err := a.save(g); err != nil {
			return err
		}
	}
	return nil
}

// devices puts the screens of boats and vans on the roster, and the phones of
// some people. One in six was never connected.
func (a arranger) devices() error {
	r, err := a.roster()
	if err != nil {
		return err
	}
	e := &roster.Edit{Kind: roster.Changed, Said: "phones and the screens of boats and vans added"}
	put := func(i int, name, kind string) {
		before := r.Sheet(r.At(i).ID)
		after := before.Clone()
		after.Addresses = append(after.Addresses, roster.Address{
			Channel: roster.Push, Value: name, Label: kind, Health: roster.Untried,
		})
		e.People = append(e.People, roster.PersonEdit{Before: before, After: after})
	}
	carried, _ := r.GroupNamed("Boats and vans")
	for n, i := range r.In(carried.ID) {
		if name := r.At(i).Name(); name != "Pump trailer" && n%4 != 3 {
			put(i, name+" screen", roster.VehicleTerminal)
		}
	}
	holders, _ := r.Select(
		roster.Rule{
			{On: roster.OnChannel, Test: roster.Is, Value: string(roster.Text)},
			{On: roster.OnChannel, Test: roster.Is, Value: string(roster.Email)},
		},
	)
	for n, i := range holders {
		if n%7 == 0 {
			put(i, r.At(i).Name()+"’s phone", "phone")
		}
	}
	if _, err := a.g.Store.Apply(a.ctx, a.by.ID, e, a.now, nil); err != nil {
		return err
	}
	var connected []store.Device
	for n, p := range e.People {
		if n%6 == 5 {
			continue
		}
		name := p.After.Addresses[len(p.After.Addresses)-1].Value
		d := standin.Device(name)
		connected = append(connected, store.Device{Name: name, Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth})
	}
	return a.g.Store.Connect(a.ctx, connected, a.now)
}

// postal says where some of those live whom no channel reaches.
func (a arranger) postal() error {
	r, err := a.roster()
	if err != nil {
		return err
	}
	id := roster.AttributeID(a.attribute("Postal address"))
	e := &roster.Edit{Kind: roster.Changed, Said: "postal addresses added"}
	for i := range r.Len() {
		before := r.Sheet(r.At(i).ID)
		if before.Reaches("") || before.Has(roster.Dependent) || i%4 == 3 {
			continue
		}
		after := before.Clone()
		after.SetValue(id, fmt.Sprintf("%d Fen Row, Quillmere", 2+i%60))
		e.People = append(e.People, roster.PersonEdit{Before: before, After: after})
	}
	_, err = a.g.Store.Apply(a.ctx, a.by.ID, e, a.now, nil)
	return err
}

// readers are guardians who read copies for the club, two for Arabic.
func (a arranger) readers() error {
	r, err := a.roster()
	if err != nil {
		return err
	}
	id := roster.AttributeID(a.attribute(readsCopies))
	e := &roster.Edit{Kind: roster.Changed, Said: "who reads copies for us"}
	for _, tag := range []string{"ar", "ar", "pl", "uk", "vi"} {
		people, _ := r.Select(roster.Rule{
			{On: roster.OnRole, Test: roster.Is, Value: string(roster.Guardian)},
			{On: roster.OnLanguage, Test: roster.Is, Value: tag},
			{On: roster.OnChannel, Test: roster.Is, Value: string(roster.Text)},
			{On: roster.OnChannel, Test: roster.Is, Value: string(roster.Email)},
		})
		for _, at := range people {
			if slices.ContainsFunc(e.People, func(p roster.PersonEdit) bool { return p.Before.ID == r.At(at).ID }) {
				continue
			}
			before := r.Sheet(r.At(at).ID)
			after := before.Clone()
			after.SetValue(id, roster.LanguageName(tag))
			e.People = append(e.People, roster.PersonEdit{Before: before, After: after})
			break
		}
	}
	_, err = a.g.Store.Apply(a.ctx, a.by.ID, e, a.now, nil)
	return err
}

func (a arranger) filters() error {
	_, err := a.g.Store.KeepFilter(a.ctx, a.by.ID, "Juniors with a phone of their own", roster.Rule{
		{On: roster.OnRole, Test: roster.Is, Value: string(roster.Dependent)},
		{On: roster.OnChannel, Test: roster.Is, Value: string(roster.Text)},
	})
	return err
}

// correction is what somebody typed by their personal link and nobody has
// looked at yet; somebody else is away for some days.
func (a arranger) correction() error {
	r, err := a.roster()
	if err != nil {
		return err
	}
	people, _ := r.Select(roster.Rule{
		{On: roster.OnRole, Test: roster.Is, Value: string(roster.Guardian)},
		{On: roster.OnLanguage, Test: roster.Is, Value: "pl"},
		{On: roster.OnChannel, Test: roster.Is, Value: string(roster.Email)},
	})
	if len(people) < 2 {
		return nil // a roster of another size
	}
	before := r.Sheet(r.At(people[0]).ID)
	after := before.Clone()
	after.Wish = roster.Text
	after.Addresses = append(
		[]roster.Address{{Channel: roster.Text, Value: "+447700900961", Label: "mobile"}}, after.Addresses...,
	)
	if _, err := a.g.Store.AddUpdate(a.ctx, store.Update{
		Person: before.ID, After: *after, At: a.now.Add(-3 * time.Hour), State: store.UpdateWaiting,
	}); err != nil {
		return err
	}
	_, err = a.g.Alter(a.ctx, a.by, []roster.PersonID{r.At(people[1]).ID}, entry.Alteration{
		Do: "status", Value: string(roster.Away), Until: roster.Date(a.now.AddDate(0, 0, 12).Format(time.DateOnly)),
	})
	return err
}
