package messages

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/seek"
	"upperlantern/internal/store"
)

// ErrTaken means that somebody else kept something by a name.
var ErrTaken = errors.New("this name is taken")

// KeepSearch keeps a search by a name, over somebody's own with the same name.
func (s *Service) KeepSearch(
	ctx context.Context, by access.Principal, name string, search seek.Search,
) (store.KeptSearch, error) {
	k := store.KeptSearch{Owner: by.ID, Name: strings.TrimSpace(name), Search: search}
	if k.Name == "" {
		return k, fmt.Errorf("%w: a search without a name cannot be kept", seek.ErrUnfit)
	}
	if err := search.Validate(); err != nil {
		return k, err
	}
	kept, err := s.Store.KeptSearches(ctx)
	if err != nil {
		return k, err
	}
	if slices.ContainsFunc(kept, func(o store.KeptSearch) bool { return o.Name == k.Name && o.Owner != by.ID }) {
		return k, fmt.Errorf("%w: somebody else kept “%s”. Choose another name", ErrTaken, k.Name)
	}
	k.ID, err = s.Store.KeepSearch(ctx, by.ID, k.Name, search)
	return k, err
}

// DropSearch forgets a search: one's own, or anybody's for who may change settings.
func (s *Service) DropSearch(ctx context.Context, by access.Principal, id int64) error {
	kept, err := s.Store.KeptSearches(ctx)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(kept, func(k store.KeptSearch) bool { return k.ID == id })
	switch {
	case at < 0:
		return store.ErrNotFound
	case kept[at].Owner != by.ID && !by.May(access.ChangeSettings):
		return fmt.Errorf("%w: somebody else kept this search", access.ErrNotYours)
	}
	return s.Store.DropSearch(ctx, id)
}
