package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Edit is what was done to the roster in one go, as the history has it.
type Edit struct {
	ID     int64
	Kind   roster.EditKind
	Said   string
	By     string // the account's name, "" for the program and for people themselves
	Owner  int64  // the account, or 0
	People int
	At     time.Time
	Undone bool
	Groups []roster.GroupID // that it made
}

// Applied is an edit that was made. IDs are the new people by the negative
// identifiers that the edit called them by.
type Applied struct {
	Edit int64
	IDs  map[roster.PersonID]roster.PersonID
}

// Apply makes an edit in one transaction: all of it happens, or none. Somebody
// whom another edit changed after the sheet was read is ErrConflict. An edit
// that changes nothing leaves no trace. Progress is told every so often how
// many people are done; it may be nil.
func (s *Store) Apply(
	ctx context.Context, account int64, e *roster.Edit, now time.Time, progress func(done int),
) (Applied, error) {
	var applied Applied
	err := s.apply(ctx, account, e, now, progress, &applied, func(*query.Queries) error { return nil })
	return applied, err
}

func (s *Store) apply(
	ctx context.Context, account int64, e *roster.Edit, now time.Time, progress func(int), applied *Applied,
	and func(*query.Queries) error,
) error {
	r, err := s.Roster(ctx)
	if err != nil {
		return err
	}
	var changed []int64
	err = s.change(ctx, func(q *query.Queries) error {
		w := editWriter{
			ctx: ctx, q: q, roster: r, edit: e, account: account, now: now, progress: progress,
			ids: map[roster.PersonID]roster.PersonID{}, groups: map[roster.GroupID]roster.GroupID{},
			versions: make([]int64, len(e.People)),
			edited:   make(map[roster.PersonID]roster.PersonEdit, len(e.People)),
		}
		for _, p := range e.People {
			w.edited[p.ID()] = p
		}
		if err := w.write(); err != nil {
			return err
		}
		*applied = Applied{w.id, w.ids}
		changed = w.changed()
		return and(q)
	})
	if err != nil || len(e.Groups)+len(e.Nest) > 0 || e.Kind == roster.Undone {
		return err // groups came or went
	}
	return s.patch(ctx, changed)
}

// editWriter writes one edit.
type editWriter struct {
	ctx      context.Context
	q        *query.Queries
	roster   *roster.Roster // to say what changed
	edit     *roster.Edit
	account  int64
	now      time.Time
	progress func(int)

	id       int64
	ids      map[roster.PersonID]roster.PersonID // of new people, by what the edit calls them
	groups   map[roster.GroupID]roster.GroupID   // of new groups, alike
	versions []int64                             // of the people, afterwards
	edited   map[roster.PersonID]roster.PersonEdit
}

func (w *editWriter) write() error {
	// Whoever goes makes room first: identifiers of the organisation's own
	// files are there once.
	for i, p := range w.edit.People {
		if p.After == nil {
			if err := w.remove(i, p.Before); err != nil {
				return fmt.Errorf("%s: %w", p.Before.Name(), err)
			}
		}
	}
	for i, p := range w.edit.People {
		if p.After == nil {
			continue
		}
		if err := w.person(i, p); err != nil {
			return fmt.Errorf("%s: %w", p.After.Name(), err)
		}
		if i%500 == 0 && w.progress != nil {
			w.progress(i)
		}
	}
	if err := w.newGroups(); err != nil {
		return err
	}
	for _, p := range w.edit.People {
		if p.After == nil {
			continue
		}
		if err := w.bonds(p); err != nil {
			return fmt.Errorf("%s: %w", p.After.Name(), err)
		}
	}
	return w.keep()
}

// changed lists everybody whom the edit changed, with those at the other end of
// its ties.
func (w *editWriter) changed() []int64 {
	if len(w.edit.People) > mostPatched {
		return nil
	}
	seen := map[int64]bool{}
	for _, p := range w.edit.People {
		seen[int64(w.personID(p.ID()))] = true
		for _, s := range []*roster.Sheet{p.Before, p.After} {
			if s == nil {
				continue
			}
			for _, t := range s.Ties {
				seen[int64(w.personID(t.Guardian))], seen[int64(w.personID(t.Dependent))] = true, true
			}
		}
	}
	return slices.Collect(maps.Keys(seen))
}

// remove leaves nothing of a person but their number.
func (w *editWriter) remove(i int, before *roster.Sheet) error {
	id := int64(before.ID)
	into := w.edit.Merged[before.ID]
	n, err := w.q.RemovePerson(w.ctx, query.RemovePersonParams{
		ID: id, Version: before.Version, MergedInto: nullID(int64(into)),
	})
	if err != nil {
		return err
	}
	if n == 0 {
		return ErrConflict
	}
	w.versions[i] = before.Version + 1
	if into != 0 {
		if err := w.q.ReMerge(w.ctx, query.ReMergeParams{IntoID: nullID(int64(into)), FromID: nullID(id)}); err != nil {
			return err
		}
	}
	for _, drop := range []func(context.Context, int64) error{
		w.q.DropAddresses, w.q.DropMemberships, w.q.DropTies,
	} {
		if err := drop(w.ctx, id); err != nil {
			return err
		}
	}
	return w.touchOthers(before.Ties, nil, before.ID)
}

// person writes what belongs to a person alone.
func (w *editWriter) person(i int, p roster.PersonEdit) error {
	a := p.After
	attributes, err := valuesText(a.Values)
	if err != nil {
		return err
	}
	columns := query.SetPersonParams{
		ExternalID: sql.NullString{String: a.ExternalID, Valid: a.ExternalID != ""}, GivenName: a.GivenName,
		FamilyName: a.FamilyName,
		KnownAs:    a.KnownAs, Language: a.Language, Status: a.Status,
		AwayUntil: string(a.AwayUntil), BornOn: string(a.BornOn),
		UnitID: nullID(int64(a.Unit)), TimeZone: a.TimeZone, Wish: string(a.Wish), Notes: a.Notes, Roles: rolesText(a.Roles),
		Attributes: attributes, ReachedOn: string(a.ReachedOn),
		ID: int64(a.ID),
	}
	switch {
	case p.Before != nil:
		columns.Version = p.Before.Version
		n, err := w.q.SetPerson(w.ctx, columns)
		if err != nil {
			return err
		}
		if n == 0 {
			return ErrConflict
		}
		w.versions[i] = p.Before.Version + 1
	case a.ID > 0: // somebody who was removed comes back
		n, err := w.q.RestorePerson(w.ctx, query.RestorePersonParams{
			ExternalID: columns.ExternalID, GivenName: a.GivenName, FamilyName: a.FamilyName, KnownAs: a.KnownAs,
			Language: a.Language,
			Status:   a.Status, AwayUntil: columns.AwayUntil, BornOn: columns.BornOn,
			UnitID: columns.UnitID, TimeZone: a.TimeZone,
			Wish: columns.Wish, Notes: a.Notes, Roles: columns.Roles, Attributes: attributes, ReachedOn: columns.ReachedOn,
			ID: columns.ID,
		})
		if err != nil {
			return err
		}
		if n == 0 {
			return ErrConflict
		}
		if w.versions[i], err = w.q.PersonVersion(w.ctx, columns.ID); err != nil {
			return err
		}
	default:
		id, err := w.q.AddPerson(w.ctx, query.AddPersonParams{
			ExternalID: columns.ExternalID, GivenName: a.GivenName, FamilyName: a.FamilyName, KnownAs: a.KnownAs,
			Language: a.Language,
			Status:   a.Status, AwayUntil: columns.AwayUntil, BornOn: columns.BornOn,
			UnitID: columns.UnitID, TimeZone: a.TimeZone,
			Wish: columns.Wish, Notes: a.Notes, Roles: columns.Roles, Attributes: attributes, ReachedOn: columns.ReachedOn,
		})
		if err != nil {
			return err
		}
		w.ids[a.ID] = roster.PersonID(id)
		w.versions[i] = 1
	}
	return w.addresses(p)
}

func (w *editWriter) addresses(p roster.PersonEdit) error {
	id := int64(w.personID(p.After.ID))
	if p.Before != nil {
		if slices.Equal(p.Before.Addresses, p.After.Addresses) {
			return nil
		}
		for _, a := range p.Before.Addresses {
			if slices.ContainsFunc(p.After.Addresses, a.Is) {
				continue
			}
			if err := w.q.DropAddress(w.ctx, query.DropAddressParams{
				PersonID: id, Channel: a.Channel, Value: a.Value,
			}); err != nil {
				return err
			}
		}
	}
	for position, a := range p.After.Addresses {
		if a.Health == "" {
			a.Health = roster.Untried
		}
		if err := w.q.PutAddress(w.ctx, query.PutAddressParams{
			PersonID: id, Channel: a.Channel, Value: a.Value, Label: a.Label, Position: int64(position), Health: a.Health,
			HealthDetail: a.LastFailure, FailedOn: string(a.FailedOn), CheckedOn: string(a.CheckedOn),
			DeclinesRoutine: a.DeclinesRoutine, DeclinesTimely: a.DeclinesTimely, CarrierStop: a.CarrierStop,
		}); err != nil {
			return err
		}
	}
	return nil
}

func (w *editWriter) newGroups() error {
	for _, g := range w.edit.Groups {
		id, err := w.q.AddGroup(w.ctx, query.AddGroupParams{Name: g.Name, Kind: g.Kind})
		if err != nil {
			return fmt.Errorf("group %q: %w", g.Name, err)
		}
		w.groups[g.ID] = roster.GroupID(id)
		g.ID = roster.GroupID(id)
		if err := setGroup(w.ctx, w.q, g); err != nil {
			return fmt.Errorf("group %q: %w", g.Name, err)
		}
	}
	for _, n := range w.edit.Nest {
		if err := w.q.AddNesting(w.ctx, query.AddNestingParams{
			OuterID: int64(w.groupID(n.Outer)), InnerID: int64(w.groupID(n.Inner)),
		}); err != nil {
			return fmt.Errorf("nesting groups: %w", err)
		}
	}
	return nil
}

func (w *editWriter) personID(id roster.PersonID) roster.PersonID {
	if id < 0 {
		return w.ids[id]
	}
	return id
}

func (w *editWriter) groupID(id roster.GroupID) roster.GroupID {
	if id < 0 {
		return w.groups[id]
	}
	return id
}

// bonds writes what joins a person to groups and to other people.
func (w *editWriter) bonds(p roster.PersonEdit) error {
	id := w.personID(p.After.ID)
	before := p.Before
	if before == nil {
		before = &roster.Sheet{}
	}
	// Only differences are written: an account does not see every group.
	for _, g := range before.Groups {
		if slices.Contains(p.After.Groups, g) {
			continue
		}
		if err := w.q.DropMember(w.ctx, query.DropMemberParams{GroupID: int64(g), PersonID: int64(id)}); err != nil {
			return err
		}
	}
	for _, g := range p.After.Groups {
		if slices.Contains(before.Groups, g) {
			continue
		}
		if err := w.q.AddMember(w.ctx, query.AddMemberParams{GroupID: int64(w.groupID(g)), PersonID: int64(id)}); err != nil {
			return err
		}
	}
	for _, t := range before.Ties {
		if slices.ContainsFunc(p.After.Ties, t.Joins) {
			continue
		}
		if err := w.q.DropTie(w.ctx, query.DropTieParams{
			GuardianID: int64(t.Guardian), DependentID: int64(t.Dependent),
		}); err != nil {
			return err
		}
	}
	for _, t := range p.After.Ties {
		if slices.Contains(before.Ties, t) {
			continue
		}
		if err := w.q.PutTie(w.ctx, query.PutTieParams{
			GuardianID: int64(w.personID(t.Guardian)), DependentID: int64(w.personID(t.Dependent)), Receives: t.Receives,
			Barred: t.Barred,
		}); err != nil {
			return err
		}
	}
	return w.touchOthers(before.Ties, p.After.Ties, p.After.ID)
}

// touchOthers makes the sheets of those at the other end of changed ties grow
// too, so that nobody saves over a tie that they have not seen.
func (w *editWriter) touchOthers(before, after []roster.Tie, self roster.PersonID) error {
	for _, lists := range [][2][]roster.Tie{{before, after}, {after, before}} {
		for _, t := range lists[0] {
			other := t.Other(self)
			if slices.Contains(lists[1], t) || other < 0 {
				continue
			}
			if _, edited := w.edited[other]; edited {
				continue
			}
			if err := w.q.TouchPerson(w.ctx, int64(other)); err != nil {
				return err
			}
		}
	}
	return nil
}

// keep writes the history, from which the edit can be undone.
func (w *editWriter) keep() error {
	if len(w.edit.People)+len(w.edit.Groups)+len(w.edit.Nest) == 0 {
		return nil
	}
	made := make([]roster.GroupID, 0, len(w.groups))
	for _, id := range w.groups {
		made = append(made, id)
	}
	groups, err := json.Marshal(made)
	if err != nil {
		return err
	}
	if w.id, err = w.q.AddEdit(w.ctx, query.AddEditParams{
		AccountID: nullID(w.account), Kind: string(w.edit.Kind), Said: w.edit.Said, People: int64(len(w.edit.People)),
		MadeAt: millis(w.now), Groups: string(groups),
	}); err != nil {
		return err
	}
	for i, p := range w.edit.People {
		if err := w.keepPerson(i, p); err != nil {
			return err
		}
	}
	return nil
}

func (w *editWriter) keepPerson(i int, p roster.PersonEdit) error {
	row := query.AddEditPersonParams{
		EditID: w.id, PersonID: int64(w.personID(p.ID())), Version: w.versions[i], Changes: "[]",
	}
	if p.Before != nil {
		whole := w.roster.Sheet(p.Before.ID) // the editor may not see all of it
		if whole == nil || whole.Version != p.Before.Version {
			whole = p.Before
		}
		var err error
		if row.Before, err = sheetForm.write(whole); err != nil {
			return err
		}
	}
	if changes := w.roster.Differ(p.Before, p.After, w); len(changes) > 0 {
		text, err := json.Marshal(changes)
		if err != nil {
			return err
		}
		row.Changes = string(text)
	}
	return w.q.AddEditPerson(w.ctx, row)
}

// PersonName and GroupName call the new ones by their names too.
func (w *editWriter) PersonName(id roster.PersonID) string {
	if id > 0 {
		return w.roster.PersonName(id)
	}
	return w.edited[id].After.Name()
}

func (w *editWriter) GroupName(id roster.GroupID) string {
	for _, g := range w.edit.Groups {
		if g.ID == id {
			return g.Name
		}
	}
	return w.roster.GroupName(id)
}

// Undone is what undoing an edit came to.
type Undone struct {
	Edit   int64
	People int
	Kept   []roster.PersonID // changed since, and left as they are
	Bars   int               // barred contacts that stay barred: only a person lifts a bar, and says why
}

// Undo puts the people of an edit back as they were before it. Who was changed
// since stays as they are. An edit is undone once; a second time is ErrConflict.
func (s *Store) Undo(ctx context.Context, account, id int64, now time.Time) (Undone, error) {
	edit, err := s.Edit(ctx, id)
	if err != nil {
		return Undone{}, err
	}
	if edit.Undone {
		return Undone{}, ErrConflict
	}
	r, err := s.Roster(ctx)
	if err != nil {
		return Undone{}, err
	}
	rows, err := s.read().EditPeople(ctx, id)
	if err != nil {
		return Undone{}, err
	}
	back := &roster.Edit{Kind: roster.Undone, Said: "undid: " + edit.Said}
	var out Undone
	for _, row := range rows {
		person := roster.PersonID(row.PersonID)
		current := r.Sheet(person)
		if row.NowVersion != row.Version || current == nil && row.Before == "" {
			out.Kept = append(out.Kept, person)
			continue
		}
		p := roster.PersonEdit{Before: current}
		if row.Before != "" {
			p.After = &roster.Sheet{}
			if err := sheetForm.read(row.Before, p.After); err != nil {
				return out, fmt.Errorf("reading how %d was before: %w", person, err)
			}
			if current != nil {
				out.Bars += p.After.KeepBars(current)
			}
		}
		back.People = append(back.People, p)
	}
	out.People = len(back.People)
	var applied Applied
	err = s.apply(ctx, account, back, now, nil, &applied, func(q *query.Queries) error {
		for _, g := range slices.Backward(edit.Groups) {
			if err := q.DropEmptyGroup(ctx, int64(g)); err != nil {
				return err
			}
		}
		if applied.Edit == 0 {
			applied.Edit = id
		}
		n, err := q.SetUndone(ctx, query.SetUndoneParams{UndoneBy: nullID(applied.Edit), ID: id})
		if err == nil && n == 0 {
			return ErrConflict
		}
		return err
	})
	out.Edit = applied.Edit
	return out, err
}

// Edit returns one edit.
func (s *Store) Edit(ctx context.Context, id int64) (Edit, error) {
	row, err := s.read().EditByID(ctx, id)
	if err != nil {
		return Edit{}, found(err)
	}
	e := Edit{
		ID: row.ID, Kind: roster.EditKind(row.Kind), Said: row.Said, By: row.ByName,
		Owner: row.AccountID.Int64, People: int(row.People),
		At:     at(row.MadeAt),
		Undone: row.UndoneBy.Valid,
	}
	return e, json.Unmarshal([]byte(row.Groups), &e.Groups)
}

// Edits lists the newest edits, from the first on: those of one account, or all
// of them for 0.
func (s *Store) Edits(ctx context.Context, own int64, first, count int) ([]Edit, error) {
	rows, err := s.read().Edits(ctx, query.EditsParams{Own: own, Count: int64(count), First: int64(first)})
	list := make([]Edit, len(rows))
	for i, row := range rows {
		list[i] = Edit{
			ID: row.ID, Kind: roster.EditKind(row.Kind), Said: row.Said, By: row.ByName,
			Owner: row.AccountID.Int64, People: int(row.People),
			At:     at(row.MadeAt),
			Undone: row.UndoneBy.Valid,
		}
	}
	return list, err
}

// PersonEdit is what one edit did to one person.
type PersonEdit struct {
	Edit
	Version int64 // of the person after it
	Changes []roster.Change
}

// History lists what was done to a person, the newest first.
func (s *Store) History(ctx context.Context, id roster.PersonID) ([]PersonEdit, error) {
	rows, err := s.read().PersonEdits(ctx, int64(id))
	if err != nil {
		return nil, err
	}
	list := make([]PersonEdit, len(rows))
	for i, row := range rows {
		list[i] = PersonEdit{
			Edit: Edit{
				ID: row.ID, Kind: roster.EditKind(row.Kind), Said: row.Said, By: row.ByName,
				People: int(row.People), At: at(row.MadeAt),
				Undone: row.UndoneBy.Valid,
			},
			Version: row.Version,
		}
		if err := json.Unmarshal([]byte(row.Changes), &list[i].Changes); err != nil {
			return nil, fmt.Errorf("reading changes: %w", err)
		}
	}
	return list, nil
}

// Got is one delivery that concerned a person.
type Got struct {
	Message int64
	Author  int64 // the account that wrote it
	Title   string
	Channel roster.Channel
	Address string
	State   delivery.State
	At      time.Time
}

// Got lists what a person got since an instant, the newest first.
func (s *Store) Got(ctx context.Context, id roster.PersonID, since time.Time) ([]Got, error) {
	rows, err := s.read().PersonDeliveries(ctx, query.PersonDeliveriesParams{
		PersonID: nullID(int64(id)), Since: millis(since),
	})
	list := make([]Got, len(rows))
	for i, row := range rows {
		list[i] = Got{row.MessageID, row.AccountID, row.Title, row.Channel, row.Address, row.State, at(row.UpdatedAt)}
	}
	return list, err
}
