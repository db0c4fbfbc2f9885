package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// versionEvery is how often a draft that is being written is kept in its history.
const versionEvery = time.Minute

// mostVersions is how many versions of a draft are kept.
const mostVersions = 60

// keepVersion keeps a draft in its history. What one account writes within a
// minute is one version.
func keepVersion(ctx context.Context, q *query.Queries, id, account int64, draft string, now time.Time) error {
	last, err := q.LastVersion(ctx, id)
	if err != nil && !errors.Is(found(err), ErrNotFound) {
		return err
	}
	if err == nil && last.AccountID.Int64 == account && now.Sub(at(last.BeganAt)) < versionEvery {
		return q.SetVersion(ctx, query.SetVersionParams{ID: last.ID, Draft: draft, SavedAt: millis(now)})
	}
	if err := q.AddVersion(ctx, query.AddVersionParams{
		MessageID: id, AccountID: nullID(account), Draft: draft, Now: millis(now),
	}); err != nil {
		return err
	}
	return q.DropOldVersions(ctx, query.DropOldVersionsParams{MessageID: id, Kept: mostVersions})
}

// Version is a draft as it once was.
type Version struct {
	ID    int64
	By    string
	At    time.Time
	Draft message.Draft
}

// ShelfVersion is what is on the shelf as it once was.
type ShelfVersion struct {
	ID      int64
	By      string
	At      time.Time
	Content message.Content
}

// Versions lists the history of a draft, newest first.
func (s *Store) Versions(ctx context.Context, id int64) ([]Version, error) {
	rows, err := s.read().Versions(ctx, id)
	if err != nil {
		return nil, err
	}
	list := make([]Version, len(rows))
	for i, row := range rows {
		list[i] = Version{ID: row.ID, By: row.Author, At: at(row.SavedAt)}
		if err := draftForm.read(row.Draft, &list[i].Draft); err != nil {
			return nil, fmt.Errorf("reading a version of message %d: %w", id, err)
		}
	}
	return list, nil
}

// ShelfKind says what something on the shelf is for.
type ShelfKind string

const (
	Template  ShelfKind = "template"   // a whole message
	QuickText ShelfKind = "quick-text" // words to put into one
)

// ShelfKinds lists everything that is on the shelf.
var ShelfKinds = []ShelfKind{Template, QuickText}

// ShelfItem is a template or a quick text. It is its owner's own, or shared with a
// unit, or with the organisation.
type ShelfItem struct {
	ID      int64
	Kind    ShelfKind
	Name    string
	Own     bool
	Owner   int64
	By      string        // who changed it last
	Unit    roster.UnitID // with which it is shared; 0 for the whole organisation
	Content message.Content
	At      time.Time
}

// Shared is how the item is shared.
func (i ShelfItem) Shared() access.Shared {
	return access.Shared{Owner: i.Owner, Own: i.Own, Unit: i.Unit}
}

func shelfItemOf(row query.ShelfRow) (ShelfItem, error) {
	item := ShelfItem{
		ID: row.ID, Kind: ShelfKind(row.Kind), Name: row.Name, Own: row.Own, Owner: row.OwnerID, By: row.Author,
		Unit: roster.UnitID(row.UnitID), At: at(row.SavedAt),
	}
	if err := contentForm.read(row.Content, &item.Content); err != nil {
		return item, fmt.Errorf("reading “%s” on the shelf: %w", item.Name, err)
	}
	return item, nil
}

// Shelf lists templates and quick texts by name, whoever's they are.
func (s *Store) Shelf(ctx context.Context) ([]ShelfItem, error) {
	rows, err := s.read().Shelf(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]ShelfItem, len(rows))
	for i, row := range rows {
		if list[i], err = shelfItemOf(row); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// PutOnShelf adds something to the shelf, or keeps a new version of the one
// with the same identifier.
func (s *Store) PutOnShelf(ctx context.Context, item ShelfItem, account int64, now time.Time) (int64, error) {
	content, err := contentForm.write(item.Content)
	if err != nil {
		return 0, err
	}
	err = s.write(ctx, func(q *query.Queries) error {
		if item.ID == 0 {
			item.ID, err = q.AddShelfItem(ctx, query.AddShelfItemParams{
				Kind: string(item.Kind), OwnerID: account, Own: item.Own, UnitID: nullID(int64(item.Unit)), Name: item.Name,
			})
		} else {
			err = one(
				q.SetShelfItem(ctx, query.SetShelfItemParams{
					ID: item.ID, Name: item.Name, Own: item.Own, UnitID: nullID(int64(item.Unit)),
				}),
			)
		}
		if err != nil {
			return err
		}
		return q.AddShelfVersion(ctx, query.AddShelfVersionParams{
			ItemID: item.ID, AccountID: nullID(account), Content: content, SavedAt: millis(now),
		})
	})
	return item.ID, err
}

// ShelfVersions lists what an item on the shelf was, newest first.
func (s *Store) ShelfVersions(ctx context.Context, id int64) ([]ShelfVersion, error) {
	rows, err := s.read().ShelfVersions(ctx, id)
	if err != nil {
		return nil, err
	}
	list := make([]ShelfVersion, len(rows))
	for i, row := range rows {
		list[i] = ShelfVersion{ID: row.ID, By: row.Author, At: at(row.SavedAt)}
		if err := contentForm.read(row.Content, &list[i].Content); err != nil {
			return nil, fmt.Errorf("reading a version of item %d on the shelf: %w", id, err)
		}
	}
	return list, nil
}

// DropFromShelf deletes an item with its versions.
func (s *Store) DropFromShelf(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error { return one(q.DropShelfItem(ctx, id)) })
}
