package desks

import (
	"context"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Overview is a desk with what waits there.
type Overview struct {
	ID      desk.ID
	Name    string
	Open    bool
	Until   time.Time // the hours end; zero for a desk that is always open
	Counts  map[desk.Waits]int
	Unread  int
	Oldest  time.Time // since when the oldest of what waits for us waits
	Members []store.Account
}

// Overview is the desks at which an account sits, and what waits there.
func (s *Service) Overview(ctx context.Context, by access.Principal) ([]Overview, error) {
	mine, err := s.Mine(ctx, by)
	if err != nil || len(mine) == 0 {
		return nil, err
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, err
	}
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		return nil, err
	}
	ids := make([]desk.ID, len(mine))
	for i, d := range mine {
		ids[i] = d.ID
	}
	owed, err := s.Store.WaitingForUs(ctx, ids)
	if err != nil {
		return nil, err
	}
	list := make([]Overview, len(mine))
	for i, d := range mine {
		v := Overview{ID: d.ID, Name: d.Name}
		v.Until, v.Open = d.Until(s.Now().In(zone))
		if v.Counts, err = s.Store.CountThreads(ctx, d.ID); err != nil {
			return nil, err
		}
		for _, one := range owed {
			if one.Desk == d.ID {
				v.Unread, v.Oldest = one.Unread, one.Oldest
			}
		}
		if v.Members, err = s.members(ctx, d); err != nil {
			return nil, err
		}
		list[i] = v
	}
	return list, nil
}

func (s *Service) members(ctx context.Context, d desk.Desk) ([]store.Account, error) {
	accounts, err := s.Store.Accounts(ctx)
	return slices.DeleteFunc(accounts, func(a store.Account) bool { return !d.Sits(a.ID) }), err
}

// Put makes a desk, or changes one.
func (s *Service) Put(ctx context.Context, d desk.Desk, by access.Principal) error {
	all, err := s.Store.Desks(ctx)
	if err != nil {
		return err
	}
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return err
	}
	accounts, err := s.Store.Accounts(ctx)
	if err != nil {
		return err
	}
	for _, id := range d.Members {
		if !slices.ContainsFunc(accounts, func(a store.Account) bool { return a.ID == id && a.Active }) {
			return fmt.Errorf("%w: an account that is to sit there is gone", ErrRefused)
		}
	}
	d.Name = strings.Join(strings.Fields(d.Name), " ")
	if err := d.Check(all, r); err != nil {
		return fmt.Errorf("%w: %w", ErrRefused, err)
	}
	id, err := s.Store.PutDesk(ctx, d)
	if err == nil {
		s.Changed(id)
	}
	return err
}

// Drop removes a desk. Its threads, if it has any, go to another one.
func (s *Service) Drop(ctx context.Context, id, into desk.ID, by access.Principal) error {
	all, err := s.Store.Desks(ctx)
	if err != nil {
		return err
	}
	threads, err := s.Store.DeskThreads(ctx, id)
	if err != nil {
		return err
	}
	there := slices.ContainsFunc(all, func(d desk.Desk) bool { return d.ID == into && d.ID != id })
	if threads > 0 && !there {
		return fmt.Errorf("%w: say to which other desk its %d threads go", ErrRefused, threads)
	}
	if err := s.Store.DropDesk(ctx, id, into); err != nil {
		return err
	}
	s.Changed(into)
	return nil
}

// Wanted is which threads of a desk are looked for.
type Wanted struct {
	Desk        desk.ID
	Waits       desk.Waits // "" for all
	Mine        bool
	With        desk.With // only threads of a kind; "" for all
	Find        string
	Language    string        // that the person reads, BCP 47; "" for any
	Area        roster.UnitID // the person belongs to it, or to one inside it; 0 for any
	ByName      bool          // arranged by name; otherwise by what the shift owes
	From, Count int
}

// Threads lists threads of a desk at which an account sits, and how many there are.
func (s *Service) Threads(ctx context.Context, w Wanted, by access.Principal) ([]store.Thread, int, error) {
	if _, err := s.Desk(ctx, w.Desk, by); err != nil {
		return nil, 0, err
	}
	wanted := store.ThreadsWanted{
		Desk: w.Desk, Waits: w.Waits, Words: w.Find, Language: w.Language, ByName: w.ByName, From: w.From, Count: w.Count,
		With: w.With,
	}
	if w.Mine {
		wanted.Holder = by.ID
	}
	if w.Area != 0 {
		r, err := s.Store.Roster(ctx)
		if err != nil {
			return nil, 0, err
		}
		wanted.Areas = slices.Collect(maps.Keys(roster.Below(r.Units, []roster.UnitID{w.Area})))
	}
	return s.Store.Threads(ctx, wanted)
}

// WithWhom are the languages and the units of the people with whom a desk has threads.
func (s *Service) WithWhom(ctx context.Context, id desk.ID, by access.Principal) ([]string, []roster.Unit, error) {
	if _, err := s.Desk(ctx, id, by); err != nil {
		return nil, nil, err
	}
	languages, ids, err := s.Store.WithWhom(ctx, id)
	if err != nil {
		return nil, nil, err
	}
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, nil, err
	}
	units := slices.DeleteFunc(slices.Clone(r.Units), func(u roster.Unit) bool {
		below := roster.Below(r.Units, []roster.UnitID{u.ID})
		return !slices.ContainsFunc(ids, func(id roster.UnitID) bool { return below[id] })
	})
	return languages, units, nil
}

// Open finds the thread with somebody at a desk, or begins one.
func (s *Service) Open(ctx context.Context, id desk.ID, who roster.PersonID, by access.Principal) (int64, error) {
	if _, err := s.Desk(ctx, id, by); err != nil {
		return 0, err
	}
	r, err := s.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return 0, err
	}
	p := r.Person(who)
	if p == nil || who == 0 {
		return 0, fmt.Errorf("%w: this person is not on the roster", ErrRefused)
	}
	at := slices.IndexFunc(p.Addresses, func(a roster.Address) bool { return a.Usable() })
	if at < 0 {
		return 0, fmt.Errorf("%w: no address of theirs can be used", ErrRefused)
	}
	thread, err := s.Store.OpenThread(ctx, store.ComeIn{
		Entry: store.Entry{At: s.Now(), Channel: p.Addresses[at].Channel, Address: p.Addresses[at].Value},
		Desk:  id, Person: p.ID, Called: p.Name(),
	})
	if err == nil {
		s.Changed(id)
	}
	return thread, err
}

// Look is a thread with what is to be known beside it.
type Look struct {
	Thread  store.Thread
	Entries []store.Entry // the oldest first
	Places  []Place
	Roster  *roster.Roster // as the account sees it
	Person  *roster.Person // nil of whom the account does not see
	Maybe   []*roster.Person
	Members []store.Account
	Here    []Present // others who look at it

	People []InThread // in a thread with many
	Beyond int        // how many more there are whom the account does not see
	Ended  bool       // nothing more is said in it
}

// Look reads a thread for somebody who sits at its desk.
func (s *Service) Look(ctx context.Context, id int64, by access.Principal) (l Look, err error) {
	if l.Thread, err = s.Store.Thread(ctx, id); err != nil {
		return l, err
	}
	d, err := s.Desk(ctx, l.Thread.Desk, by)
	if err != nil {
		return l, err
	}
	if l.Entries, err = s.Store.Entries(ctx, id, shownEntries); err != nil {
		return l, err
	}
	l.Here = s.WhoElse(id, by)
	if l.Members, err = s.members(ctx, d); err != nil {
		return l, err
	}
	if l.Thread.With.Many() {
		v, err := s.round(ctx, l.Thread)
		if err != nil {
			return l, err
		}
		l.Ended = v.ended()
		l.People, l.Beyond, err = s.People(ctx, v, by)
		return l, err
	}
	if l.Places, err = s.Places(ctx, l.Thread); err != nil {
		return l, err
	}
	if l.Roster, err = s.Store.RosterWithin(ctx, by.Scope); err != nil || !by.May(access.SeePeople) {
		return l, err
	}
	if l.Thread.Person != 0 {
		l.Person = l.Roster.Person(l.Thread.Person)
		return l, nil
	}
	for _, i := range l.Roster.Holders(l.Thread.Address) {
		l.Maybe = append(l.Maybe, l.Roster.At(i))
	}
	return l, nil
}

// File is a file that came into a thread, with its content.
func (s *Service) File(
	ctx context.Context, id int64, hash string, by access.Principal,
) (attachment.File, []byte, error) {
	_, entries, err := s.Entries(ctx, id, by)
	if err != nil {
		return attachment.File{}, nil, err
	}
	for _, e := range entries {
		for _, f := range e.Files {
			if f.Hash != hash {
				continue
			}
			_, path, err := s.Store.File(ctx, hash)
			if err != nil {
				return f, nil, err
			}
			content, err := os.ReadFile(path)
			return f, content, err
		}
	}
	return attachment.File{}, nil, ErrNotHere
}
