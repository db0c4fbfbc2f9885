// Package shelf holds templates and quick texts, for those who may see them.
package shelf

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Service keeps the shelf for accounts. What an account may not see is
// store.ErrNotFound to it.
type Service struct {
	Store *store.Store
	Now   func() time.Time
}

// ErrNotKept means that something cannot be put on the shelf as it is.
var ErrNotKept = errors.New("nothing was put on the shelf")

// Item is something on the shelf as an account sees it.
type Item struct {
	store.ShelfItem
	Mine bool // the account may change it
	With string
}

// List lists what somebody sees: their own, and what is shared with everybody or
// with a unit that they reach.
func (s *Service) List(ctx context.Context, by access.Principal) ([]Item, error) {
	r, err := s.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return nil, err
	}
	all, err := s.Store.Shelf(ctx)
	var list []Item
	for _, item := range all {
		if by.Sees(item.Shared(), r.Units) {
			list = append(list, Item{item, by.MayChange(item.Shared()), with(r, item)})
		}
	}
	return list, err
}

// with says with whom something is shared.
func with(r *roster.Roster, item store.ShelfItem) string {
	switch {
	case item.Own:
		return "only you"
	case item.Unit != 0:
		return r.UnitPath(item.Unit)
	}
	return "everybody"
}

// Item returns one thing that somebody sees.
func (s *Service) Item(ctx context.Context, by access.Principal, id int64) (Item, error) {
	list, err := s.List(ctx, by)
	if err != nil {
		return Item{}, err
	}
	at := slices.IndexFunc(list, func(i Item) bool { return i.ID == id })
	if at < 0 {
		return Item{}, store.ErrNotFound
	}
	return list[at], nil
}

// changing refuses who may not see or not change something.
func (s *Service) changing(ctx context.Context, by access.Principal, id int64) error {
	item, err := s.Item(ctx, by, id)
	if err == nil && !item.Mine {
		err = fmt.Errorf("it %w; save it under another name", access.ErrNotYours)
	}
	return err
}

// Put adds an item, or keeps a new version of the one with the same identifier.
func (s *Service) Put(ctx context.Context, by access.Principal, item store.ShelfItem) error {
	r, err := s.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return err
	}
	item.Name = entry.Name(item.Name)
	if q := item.Content.Question; q != nil {
		q.Job = 0 // each message asks for a job of its own
	}
	if err := check(by, r, item); err != nil {
		return fmt.Errorf("%w: %w", ErrNotKept, err)
	}
	if item.ID != 0 {
		if err := s.changing(ctx, by, item.ID); err != nil {
			return err
		}
	}
	_, err = s.Store.PutOnShelf(ctx, item, by.ID, s.Now())
	return err
}

func check(by access.Principal, r *roster.Roster, item store.ShelfItem) error {
	switch {
	case item.Name == "":
		return errors.New("it needs a name")
	case item.Unit != 0 && !r.MayBelong(item.Unit, by.Scope):
		return errors.New("the unit no longer exists, or is not yours")
	case !item.Own && !r.MayBelong(item.Unit, by.Scope):
		return errors.New("share it with one of your units, or keep it for yourself")
	}
	return item.Content.Validate()
}

// Drop deletes an item.
func (s *Service) Drop(ctx context.Context, by access.Principal, id int64) error {
	if err := s.changing(ctx, by, id); err != nil {
		return err
	}
	return s.Store.DropFromShelf(ctx, id)
}

// Versions lists what an item was, newest first.
func (s *Service) Versions(ctx context.Context, by access.Principal, id int64) ([]store.ShelfVersion, error) {
	if _, err := s.Item(ctx, by, id); err != nil {
		return nil, err
	}
	return s.Store.ShelfVersions(ctx, id)
}

// Use is what a template says, its blanks filled by their names.
func (s *Service) Use(
	ctx context.Context, by access.Principal, id int64, values map[string]string,
) (message.Content, error) {
	item, err := s.Item(ctx, by, id)
	return item.Content.FillBlanks(values), err
}
