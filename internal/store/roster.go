package store

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// freshArrivals is how old a snapshot may be that does not know the newest arrivals.
const freshArrivals = 10 * time.Second

// Roster returns a snapshot of the whole roster. It is made anew only when
// something changed that a plan or a list depends on.
func (s *Store) Roster(ctx context.Context) (*roster.Roster, error) {
	row, err := s.read().Revision(ctx)
	if err != nil {
		return nil, found(err)
	}
	day := today(row.TimeZone)
	s.mu.Lock()
	defer s.mu.Unlock()
	stale := s.arrived.Load() && time.Since(s.loaded) > freshArrivals
	if s.snapshot != nil && s.revision == row.Revision && s.snapshot.Today == day && !stale {
		return s.snapshot, nil
	}
	s.arrived.Store(false)
	snapshot, err := s.loadRoster(ctx, day)
	if err != nil {
		return nil, fmt.Errorf("loading the roster: %w", err)
	}
	s.snapshot, s.revision, s.loaded, s.limited = snapshot, row.Revision, time.Now(), map[string]*roster.Roster{}
	return snapshot, nil
}

// RosterWithin returns a snapshot of what a scope sees.
func (s *Store) RosterWithin(ctx context.Context, scope roster.Scope) (*roster.Roster, error) {
	whole, err := s.Roster(ctx)
	if err != nil || scope.Whole {
		return whole, err
	}
	key := fmt.Sprint(scope.Units)
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.snapshot != whole {
		return whole.Within(scope), nil
	}
	if s.limited[key] == nil {
		s.limited[key] = whole.Within(scope)
	}
	return s.limited[key], nil
}

// mostPatched is up to how many people an edit may change for the snapshot to
// be mended rather than made anew.
const mostPatched = 500

// patch mends the snapshot after an edit that changed some people only, so that
// on a large roster the next list does not wait. The next snapshot is made anew
// if anything else changed in between.
func (s *Store) patch(ctx context.Context, ids []int64) error {
	if len(ids) == 0 || len(ids) > mostPatched {
		return nil
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	row, err := s.read().Revision(ctx)
	if err != nil || s.snapshot == nil || row.Revision != s.revision+1 || s.snapshot.Today != today(row.TimeZone) {
		return err
	}
	q := s.read()
	rows, err := q.SomePeople(ctx, ids)
	if err != nil {
		return err
	}
	same := make([]query.AllPeopleRow, len(rows))
	for i, r := range rows {
		same[i] = query.AllPeopleRow(r)
	}
	addresses, err := q.SomeAddresses(ctx, ids)
	if err != nil {
		return err
	}
	people, err := peopleOf(same, slices.DeleteFunc(addresses, func(a query.Address) bool {
		return !slices.ContainsFunc(rows, func(r query.SomePeopleRow) bool { return r.ID == a.PersonID })
	}))
	if err != nil {
		return err
	}
	if err := marked(ctx, q, people); err != nil {
		return err
	}
	p := roster.Patch{People: people, Groups: map[roster.PersonID][]roster.GroupID{}}
	for _, id := range ids {
		p.IDs = append(p.IDs, roster.PersonID(id))
	}
	members, err := q.SomeMembers(ctx, ids)
	if err != nil {
		return err
	}
	for _, m := range members {
		p.Groups[roster.PersonID(m.PersonID)] = append(p.Groups[roster.PersonID(m.PersonID)], roster.GroupID(m.GroupID))
	}
	ties, err := q.SomeTies(ctx, query.SomeTiesParams{Ids: ids, MoreIds: ids})
	if err != nil {
		return err
	}
	for _, t := range ties {
		p.Ties = append(p.Ties, tieOf(t))
	}
	snapshot, err := s.snapshot.Patched(p)
	if err != nil {
		return err
	}
	s.snapshot, s.revision, s.limited = snapshot, row.Revision, map[string]*roster.Roster{}
	return nil
}

func tieOf(t query.GuardianTie) roster.Tie {
	return roster.Tie{
		Guardian: roster.PersonID(t.GuardianID), Dependent: roster.PersonID(t.DependentID), Receives: t.Receives,
		Barred: t.Barred,
	}
}

// loadRoster reads everything in one transaction, so that it fits together.
func (s *Store) loadRoster(ctx context.Context, today roster.Date) (*roster.Roster, error) {
	s.good.forget() // another process may have changed it
	tx, err := s.reader.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return nil, err
	}
	defer tx.Rollback() //nolint:errcheck // nothing was written
	q := query.New(tx)
	c := roster.Contents{Today: today}
	if c.People, err = loadPeople(ctx, q); err != nil {
		return nil, err
	}
	roster.Sort(c.People)
	rows, err := q.AllTies(ctx)
	if err != nil {
		return nil, err
	}
	c.Ties = make([]roster.Tie, len(rows))
	for i, t := range rows {
		c.Ties[i] = tieOf(t)
	}
	if c.Groups, err = loadGroups(ctx, q); err != nil {
		return nil, err
	}
	if err := loadSettings(ctx, q, &c); err != nil {
		return nil, err
	}
	return roster.New(c)
}

func loadSettings(ctx context.Context, q *query.Queries, c *roster.Contents) error {
	organisation, err := q.Organisation(ctx)
	if err != nil {
		return found(err)
	}
	if organisation.Roles != "" {
		if err := settingsForm.read(organisation.Roles, &c.OwnRoles); err != nil {
			return fmt.Errorf("reading the organisation's roles: %w", err)
		}
	}
	units, err := q.AllUnits(ctx)
	if err != nil {
		return err
	}
	for _, u := range units {
		c.Units = append(c.Units, roster.Unit{
			ID: roster.UnitID(u.ID), Name: u.Name, Parent: roster.UnitID(u.ParentID),
			Signature: roster.Signature{Prefix: u.Prefix, Footer: u.Footer},
		})
	}
	attributes, err := q.AllAttributes(ctx)
	if err != nil {
		return err
	}
	for _, a := range attributes {
		attribute := roster.Attribute{ID: roster.AttributeID(a.ID), Name: a.Name, Kind: a.Kind}
		if err := json.Unmarshal([]byte(a.Choices), &attribute.Choices); err != nil {
			return fmt.Errorf("reading the choices of %s: %w", a.Name, err)
		}
		c.Attributes = append(c.Attributes, attribute)
	}
	return nil
}

func loadPeople(ctx context.Context, q *query.Queries) ([]roster.Person, error) {
	rows, err := q.AllPeople(ctx)
	if err != nil {
		return nil, err
	}
	addresses, err := q.AllAddresses(ctx)
	if err != nil {
		return nil, err
	}
	people, err := peopleOf(rows, addresses)
	if err != nil {
		return nil, err
	}
	return people, marked(ctx, q, people)
}

// marked marks addresses by what is kept beside the roster.
func marked(ctx context.Context, q *query.Queries, people []roster.Person) error {
	return errors.Join(connected(ctx, q, people), stopped(ctx, q, people))
}

// peopleOf puts people and their addresses together.
func peopleOf(rows []query.AllPeopleRow, addresses []query.Address) ([]roster.Person, error) {
	people := make([]roster.Person, len(rows))
	position := make(map[int64]int, len(rows))
	for i, p := range rows {
		position[p.ID] = i
		people[i] = roster.Person{
			ID: roster.PersonID(p.ID), ExternalID: p.ExternalID, GivenName: p.GivenName, FamilyName: p.FamilyName,
			KnownAs:  p.KnownAs,
			Language: p.Language, Status: p.Status, AwayUntil: roster.Date(p.AwayUntil), BornOn: roster.Date(p.BornOn),
			Unit: roster.UnitID(p.UnitID), TimeZone: p.TimeZone, Wish: roster.Channel(p.Wish), Notes: p.Notes,
			ReachedOn: roster.Date(p.ReachedOn), Version: p.Version, Roles: rolesOf(p.Roles), Addresses: []roster.Address{},
		}
		var err error
		if people[i].Values, err = valuesOf(p.Attributes); err != nil {
			return nil, fmt.Errorf("reading the attributes of %d: %w", p.ID, err)
		}
	}
	for _, a := range addresses {
		p := &people[position[a.PersonID]]
		p.Addresses = append(p.Addresses, roster.Address{
			ID: roster.AddressID(a.ID), Channel: a.Channel, Value: a.Value, Label: a.Label, Health: a.Health,
			LastFailure: lastFailure(a),
			FailedOn:    roster.Date(a.FailedOn), CheckedOn: roster.Date(a.CheckedOn),
			DeclinesRoutine: a.DeclinesRoutine, DeclinesTimely: a.DeclinesTimely, CarrierStop: a.CarrierStop,
		})
	}
	return people, nil
}

// rolesText and rolesOf keep roles in one column, with commas between them.
func rolesText(roles []roster.Role) string {
	words := make([]string, len(roles))
	for i, r := range roles {
		words[i] = string(r)
	}
	return strings.Join(words, ",")
}

func rolesOf(text string) []roster.Role {
	roles := []roster.Role{}
	for _, word := range strings.Split(text, ",") {
		if word != "" {
			roles = append(roles, roster.Role(word))
		}
	}
	return roles
}

// valuesText and valuesOf keep what a person has for attributes in one column:
// a JSON object by the attribute's identifier, or "" for nothing.
func valuesText(values []roster.Value) (string, error) {
	if len(values) == 0 {
		return "", nil
	}
	object := make(map[roster.AttributeID]string, len(values))
	for _, v := range values {
		object[v.Attribute] = v.Value
	}
	text, err := json.Marshal(object)
	return string(text), err
}

func valuesOf(text string) ([]roster.Value, error) {
	if text == "" {
		return nil, nil
	}
	var object map[roster.AttributeID]string
	if err := json.Unmarshal([]byte(text), &object); err != nil {
		return nil, err
	}
	values := make([]roster.Value, 0, len(object))
	for id, value := range object {
		values = append(values, roster.Value{Attribute: id, Value: value})
	}
	slices.SortFunc(values, func(a, b roster.Value) int { return cmp.Compare(a.Attribute, b.Attribute) })
	return values, nil
}

func lastFailure(a query.Address) string {
	if a.Health == roster.Failing || a.Health == roster.Dead {
		return a.HealthDetail
	}
	return ""
}

func loadGroups(ctx context.Context, q *query.Queries) ([]roster.Group, error) {
	rows, err := q.AllGroups(ctx)
	if err != nil {
		return nil, err
	}
	groups := make([]roster.Group, len(rows))
	position := make(map[int64]int, len(rows))
	for i, g := range rows {
		position[g.ID] = i
		groups[i] = roster.Group{
			ID: roster.GroupID(g.ID), Name: g.Name, Unnamed: g.Unnamed, Kind: g.Kind, Unit: roster.UnitID(g.UnitID.Int64),
			Archived: g.Archived,
			Identity: roster.Identity{Name: g.SenderName, Number: g.SenderNumber, Caller: g.CallerNumber},
			Starts:   moment(g.StartsAt), Ends: moment(g.EndsAt), Closed: moment(g.ClosedAt), Place: g.Place,
			Reference: g.Reference,
		}
		if err := ruleForm.read(g.Rule, &groups[i].Rule); err != nil {
			return nil, fmt.Errorf("reading the rule of %s: %w", g.Name, err)
		}
	}
	members, err := q.AllMembers(ctx)
	if err != nil {
		return nil, err
	}
	for _, m := range members {
		g := &groups[position[m.GroupID]]
		g.Members = append(g.Members, roster.PersonID(m.PersonID))
	}
	nestings, err := q.AllNestings(ctx)
	if err != nil {
		return nil, err
	}
	for _, n := range nestings {
		g := &groups[position[n.OuterID]]
		g.Inside = append(g.Inside, roster.GroupID(n.InnerID))
	}
	return groups, nil
}

// moment is a time that may be absent.
func moment(ms int64) *time.Time {
	if ms == 0 {
		return nil
	}
	t := at(ms)
	return &t
}

func millisOf(t *time.Time) int64 {
	if t == nil {
		return 0
	}
	return millis(*t)
}

// AddGroup adds a group at the end of the order.
func (s *Store) AddGroup(ctx context.Context, g roster.Group) (roster.GroupID, error) {
	err := s.change(ctx, func(q *query.Queries) error {
		id, err := q.AddGroup(ctx, query.AddGroupParams{Name: g.Name, Kind: g.Kind})
		g.ID = roster.GroupID(id)
		if err != nil {
			return err
		}
		return setGroup(ctx, q, g)
	})
	return g.ID, err
}

// SetGroup changes a group and what is nested in it, not its members.
func (s *Store) SetGroup(ctx context.Context, g roster.Group) error {
	return s.change(ctx, func(q *query.Queries) error { return setGroup(ctx, q, g) })
}

func setGroup(ctx context.Context, q *query.Queries, g roster.Group) error {
	if g.Rule == nil {
		g.Rule = roster.Rule{}
	}
	rule, err := ruleForm.write(g.Rule)
	if err != nil {
		return err
	}
	n, err := q.SetGroup(ctx, query.SetGroupParams{
		ID: int64(g.ID), Name: g.Name, Kind: g.Kind, Unnamed: g.Unnamed, UnitID: nullID(int64(g.Unit)), Archived: g.Archived,
		Rule:       rule,
		SenderName: g.Identity.Name, SenderNumber: g.Identity.Number, CallerNumber: g.Identity.Caller,
		StartsAt: millisOf(g.Starts), EndsAt: millisOf(g.Ends), ClosedAt: millisOf(g.Closed), Place: g.Place,
		Reference: g.Reference,
	})
	if err != nil {
		return err
	}
	if n == 0 {
		return ErrNotFound
	}
	if err := q.DropNestings(ctx, int64(g.ID)); err != nil {
		return err
	}
	for _, inner := range g.Inside {
		if err := q.AddNesting(ctx, query.AddNestingParams{OuterID: int64(g.ID), InnerID: int64(inner)}); err != nil {
			return err
		}
	}
	return nil
}

// DropGroup deletes a group; its people stay on the roster.
func (s *Store) DropGroup(ctx context.Context, id roster.GroupID) error {
	return s.change(ctx, func(q *query.Queries) error { return one(q.DropGroup(ctx, int64(id))) })
}

// OrderGroups puts groups into the organisation's one order. Groups that are
// not named keep their places among the others.
func (s *Store) OrderGroups(ctx context.Context, ids []roster.GroupID) error {
	return s.change(ctx, func(q *query.Queries) error {
		rows, err := q.AllGroups(ctx)
		if err != nil {
			return err
		}
		next := 0
		for position, row := range rows {
			id := roster.GroupID(row.ID)
			if slices.Contains(ids, id) {
				id = ids[next]
				next++
			}
			if err := q.PlaceGroup(ctx, query.PlaceGroupParams{ID: int64(id), Position: int64(position + 1)}); err != nil {
				return err
			}
		}
		return nil
	})
}

// change is a write after which plans and lists can come out differently.
func (s *Store) change(ctx context.Context, do func(*query.Queries) error) error {
	return s.write(ctx, func(q *query.Queries) error {
		s.good.forget()
		if err := do(q); err != nil {
			return err
		}
		return q.BumpRevision(ctx)
	})
}

// one turns a statement that found no row into ErrNotFound.
func one(n int64, err error) error {
	if err == nil && n == 0 {
		return ErrNotFound
	}
	return err
}

// ReadEverybody reads the rows of everybody on the roster with their addresses
// and does nothing with them: the least that a snapshot can take.
func (s *Store) ReadEverybody(ctx context.Context) error {
	q := s.read()
	if _, err := q.AllPeople(ctx); err != nil {
		return err
	}
	_, err := q.AllAddresses(ctx)
	return err
}
