package store

import (
	"context"
	"database/sql"
	"fmt"
	"strings"

	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Roster returns a snapshot of the roster. It is made anew only when
// something changed that a plan depends on.
func (s *Store) Roster(ctx context.Context) (*roster.Roster, error) {
	revision, err := s.read().Revision(ctx)
	if err != nil {
		return nil, found(err)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.snapshot != nil && s.revision == revision {
		return s.snapshot, nil
	}
	snapshot, err := s.loadRoster(ctx)
	if err != nil {
		return nil, fmt.Errorf("loading the roster: %w", err)
	}
	s.snapshot, s.revision = snapshot, revision
	return snapshot, nil
}

// loadRoster reads everything in one transaction, so that it fits together.
func (s *Store) loadRoster(ctx context.Context) (*roster.Roster, error) {
	tx, err := s.reader.BeginTx(ctx, &sql.TxOptions{ReadOnly: true})
	if err != nil {
		return nil, err
	}
	defer tx.Rollback() //nolint:errcheck // nothing was written
	q := query.New(tx)
	people, err := loadPeople(ctx, q)
	if err != nil {
		return nil, err
	}
	rows, err := q.AllTies(ctx)
	if err != nil {
		return nil, err
	}
	ties := make([]roster.Tie, len(rows))
	for i, t := range rows {
		ties[i] = roster.Tie{
			Guardian: roster.PersonID(t.GuardianID), Dependent: roster.PersonID(t.DependentID), Receives: t.Receives, Barred: t.Barred,
		}
	}
	groups, err := loadGroups(ctx, q)
	if err != nil {
		return nil, err
	}
	return roster.New(people, ties, groups)
}

func loadPeople(ctx context.Context, q *query.Queries) ([]roster.Person, error) {
	rows, err := q.AllPeople(ctx)
	if err != nil {
		return nil, err
	}
	people := make([]roster.Person, len(rows))
	position := make(map[int64]int, len(rows))
	for i, p := range rows {
		position[p.ID] = i
		people[i] = roster.Person{
			ID: roster.PersonID(p.ID), ExternalID: p.ExternalID, GivenName: p.GivenName, FamilyName: p.FamilyName,
			Language: p.Language, Status: p.Status,
		}
	}
	roles, err := q.AllRoles(ctx)
	if err != nil {
		return nil, err
	}
	for _, r := range roles {
		p := &people[position[r.PersonID]]
		p.Roles = append(p.Roles, r.Role)
	}
	addresses, err := q.AllAddresses(ctx)
	if err != nil {
		return nil, err
	}
	for _, a := range addresses {
		p := &people[position[a.PersonID]]
		p.Addresses = append(p.Addresses, roster.Address{
			ID: roster.AddressID(a.ID), Channel: a.Channel, Value: a.Value, Label: a.Label, Health: a.Health,
			DeclinesRoutine: a.DeclinesRoutine, DeclinesTimely: a.DeclinesTimely, CarrierStop: a.CarrierStop,
		})
	}
	return people, nil
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
		groups[i] = roster.Group{ID: roster.GroupID(g.ID), Name: g.Name}
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

// PersonRow is one person in a list.
type PersonRow struct {
	Person roster.Person
	Groups []string
}

// People searches names, external identifiers and addresses. It returns the
// page of matches from first on, how many match and how many there are.
func (s *Store) People(ctx context.Context, search string, first, count int) (page []PersonRow, matching, all int, err error) {
	q := s.read()
	total, err := q.CountAllPeople(ctx)
	if err != nil {
		return nil, 0, 0, err
	}
	match := total
	if search != "" {
		if match, err = q.CountPeople(ctx, search); err != nil {
			return nil, 0, 0, err
		}
	}
	rows, err := q.SearchPeople(ctx, query.SearchPeopleParams{Search: search, First: int64(first), Count: int64(count)})
	if err != nil {
		return nil, 0, 0, err
	}
	for _, r := range rows {
		p := PersonRow{Person: roster.Person{
			ID: roster.PersonID(r.ID), ExternalID: r.ExternalID, GivenName: r.GivenName, FamilyName: r.FamilyName,
			Language: r.Language, Status: r.Status,
		}}
		for _, role := range strings.Fields(r.Roles) {
			p.Person.Roles = append(p.Person.Roles, roster.Role(role))
		}
		if r.GroupNames != "" {
			p.Groups = strings.Split(r.GroupNames, "\n")
		}
		if p.Person.Addresses, err = addresses(ctx, q, r.ID); err != nil {
			return nil, 0, 0, err
		}
		page = append(page, p)
	}
	return page, int(match), int(total), nil
}

func addresses(ctx context.Context, q *query.Queries, person int64) ([]roster.Address, error) {
	rows, err := q.PersonAddresses(ctx, person)
	if err != nil {
		return nil, err
	}
	list := make([]roster.Address, len(rows))
	for i, a := range rows {
		list[i] = roster.Address{
			ID: roster.AddressID(a.ID), Channel: a.Channel, Value: a.Value, Label: a.Label, Health: a.Health,
			DeclinesRoutine: a.DeclinesRoutine, DeclinesTimely: a.DeclinesTimely, CarrierStop: a.CarrierStop,
		}
	}
	return list, nil
}

// PersonTie is one tie of a person, seen from them.
type PersonTie struct {
	Other    roster.PersonID
	Name     string
	Guardian bool // the other is their guardian, not their dependent
	Receives bool
	Barred   bool
}

// PersonDetail is everything known about one person.
type PersonDetail struct {
	PersonRow
	Ties []PersonTie
}

// Person returns one person.
func (s *Store) Person(ctx context.Context, id roster.PersonID) (PersonDetail, error) {
	q := s.read()
	row, err := q.PersonByID(ctx, int64(id))
	if err != nil {
		return PersonDetail{}, found(err)
	}
	d := PersonDetail{PersonRow: PersonRow{Person: roster.Person{
		ID: id, ExternalID: row.ExternalID, GivenName: row.GivenName, FamilyName: row.FamilyName, Language: row.Language, Status: row.Status,
	}}}
	if d.Person.Roles, err = q.PersonRoles(ctx, int64(id)); err != nil {
		return d, err
	}
	if d.Person.Addresses, err = addresses(ctx, q, int64(id)); err != nil {
		return d, err
	}
	groups, err := q.PersonGroups(ctx, int64(id))
	if err != nil {
		return d, err
	}
	for _, g := range groups {
		d.Groups = append(d.Groups, g.Name)
	}
	ties, err := q.PersonTies(ctx, int64(id))
	if err != nil {
		return d, err
	}
	for _, t := range ties {
		tie := PersonTie{Other: roster.PersonID(t.DependentID), Name: t.Dependent, Receives: t.Receives, Barred: t.Barred}
		if t.DependentID == int64(id) {
			tie.Other, tie.Name, tie.Guardian = roster.PersonID(t.GuardianID), t.Guardian, true
		}
		d.Ties = append(d.Ties, tie)
	}
	return d, nil
}

// Load brings a proposal onto the roster in one transaction. Progress is told
// every so often how many entries are done.
func (s *Store) Load(ctx context.Context, p *intake.Proposal, progress func(done int)) error {
	if p.Empty() {
		return nil
	}
	return s.write(ctx, func(q *query.Queries) error {
		l := loader{ctx: ctx, q: q, ids: make([]int64, len(p.Entries))}
		for i, e := range p.Entries {
			if err := l.person(i, e); err != nil {
				return fmt.Errorf("line %d: %w", e.Line, err)
			}
			if i%500 == 0 {
				progress(i)
			}
		}
		if err := l.groups(p); err != nil {
			return err
		}
		if err := l.ties(p); err != nil {
			return err
		}
		return q.BumpRevision(ctx)
	})
}

type loader struct {
	ctx context.Context
	q   *query.Queries
	ids []int64 // by entry
}

func (l *loader) person(i int, e intake.Entry) error {
	p := e.Person
	external := sql.NullString{String: p.ExternalID, Valid: p.ExternalID != ""}
	l.ids[i] = int64(p.ID)
	if !e.Added() && len(e.Changes) == 0 {
		return nil
	}
	var err error
	if e.Added() {
		l.ids[i], err = l.q.AddPerson(l.ctx, query.AddPersonParams{
			ExternalID: external, GivenName: p.GivenName, FamilyName: p.FamilyName, Language: p.Language, Status: p.Status,
		})
	} else {
		err = l.q.SetPerson(l.ctx, query.SetPersonParams{
			ID: int64(p.ID), ExternalID: external, GivenName: p.GivenName, FamilyName: p.FamilyName, Language: p.Language, Status: p.Status,
		})
	}
	if err != nil {
		return err
	}
	for _, role := range p.Roles {
		if err := l.q.AddRole(l.ctx, query.AddRoleParams{PersonID: l.ids[i], Role: role}); err != nil {
			return err
		}
	}
	for position, a := range p.Addresses {
		if err := l.q.PutAddress(l.ctx, query.PutAddressParams{
			PersonID: l.ids[i], Channel: a.Channel, Value: a.Value, Label: a.Label, Position: int64(position),
			Health: a.Health, DeclinesRoutine: a.DeclinesRoutine, DeclinesTimely: a.DeclinesTimely,
		}); err != nil {
			return err
		}
	}
	return nil
}

func (l *loader) groups(p *intake.Proposal) error {
	for _, name := range p.Groups {
		if err := l.q.AddGroup(l.ctx, name); err != nil {
			return fmt.Errorf("group %q: %w", name, err)
		}
	}
	for _, n := range p.Nestings {
		if err := l.q.AddNesting(l.ctx, query.AddNestingParams{OuterName: n.Outer, InnerName: n.Inner}); err != nil {
			return fmt.Errorf("group %q in %q: %w", n.Inner, n.Outer, err)
		}
	}
	for i, e := range p.Entries {
		for _, name := range e.Join {
			if err := l.q.AddMember(l.ctx, query.AddMemberParams{GroupName: name, PersonID: l.ids[i]}); err != nil {
				return fmt.Errorf("line %d: joining %q: %w", e.Line, name, err)
			}
		}
	}
	return nil
}

func (l *loader) ties(p *intake.Proposal) error {
	for i, e := range p.Entries {
		for _, t := range e.Ties {
			guardian := int64(t.Guardian)
			if t.Entry >= 0 {
				guardian = l.ids[t.Entry]
			}
			if err := l.q.PutTie(l.ctx, query.PutTieParams{
				GuardianID: guardian, DependentID: l.ids[i], Receives: t.Receives, Barred: t.Barred,
			}); err != nil {
				return fmt.Errorf("line %d: tie: %w", e.Line, err)
			}
		}
	}
	return nil
}
