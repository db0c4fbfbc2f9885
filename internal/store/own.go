package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"upperlantern/internal/core/message"
	"upperlantern/internal/core/own"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// KeptPage is a personal page that somebody keeps on a device.
type KeptPage struct {
	ID     int64
	Person roster.PersonID
	Kind   string // phone, browser, vehicle terminal
	Device string // of a vehicle terminal: the value of its push address
	Kept   time.Time
	Seen   time.Time // when it was opened last, to the hour
}

// seenApart is how exactly it is known when a kept page was opened last.
const seenApart = time.Hour

// KeepPage keeps a page under the hash of its key.
func (s *Store) KeepPage(ctx context.Context, hash string, k KeptPage) error {
	return s.write(ctx, func(q *query.Queries) error { return keepPage(ctx, q, hash, k) })
}

func keepPage(ctx context.Context, q *query.Queries, hash string, k KeptPage) error {
	_, err := q.AddKeptPage(ctx, query.AddKeptPageParams{
		PersonID: int64(k.Person), Hash: hash, Kind: k.Kind, Device: k.Device, Now: millis(k.Kept),
	})
	return err
}

// KeptPage finds a kept page by the hash of its key, and notes that it was opened. The
// page of somebody who was merged is that of whom they became.
func (s *Store) KeptPage(ctx context.Context, hash string, now time.Time) (KeptPage, error) {
	row, err := s.read().KeptPage(ctx, hash)
	if err != nil {
		return KeptPage{}, found(err)
	}
	k := KeptPage{
		ID: row.ID, Person: roster.PersonID(row.PersonID), Kind: row.Kind, Device: row.Device, Kept: at(row.KeptAt),
		Seen: at(row.SeenAt),
	}
	if now.Sub(k.Seen) < seenApart {
		return k, nil
	}
	err = s.write(ctx, func(q *query.Queries) error {
		return q.SeeKeptPage(ctx, query.SeeKeptPageParams{ID: k.ID, Now: millis(now)})
	})
	if errors.Is(err, ErrFull) {
		err = nil // it can be read all the same
	}
	return k, err
}

// KeptPages are the pages that somebody keeps.
func (s *Store) KeptPages(ctx context.Context, person roster.PersonID) ([]KeptPage, error) {
	rows, err := s.read().KeptPagesOf(ctx, int64(person))
	list := make([]KeptPage, len(rows))
	for i, row := range rows {
		list[i] = KeptPage{
			ID: row.ID, Person: roster.PersonID(row.PersonID), Kind: row.Kind, Device: row.Device, Kept: at(row.KeptAt),
			Seen: at(row.SeenAt),
		}
	}
	return list, err
}

// EndPage ends a kept page. A vehicle terminal gets nothing more.
func (s *Store) EndPage(ctx context.Context, k KeptPage) error {
	return s.change(ctx, func(q *query.Queries) error {
		if err := one(q.DropKeptPage(ctx, k.ID)); err != nil || k.Device == "" {
			return err
		}
		return q.DropDevice(ctx, k.Device)
	})
}

// mostPairings is how many vehicle terminals of a network can wait at a time.
const mostPairings = 20

// AddPairing keeps the code that a vehicle terminal shows, beside the hash of its key.
// Codes made before an instant are forgotten. It is ErrConflict of too many from a network.
func (s *Store) AddPairing(ctx context.Context, code, hash, network string, now, since time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		if err := q.DropOldPairings(ctx, millis(since)); err != nil {
			return err
		}
		n, err := q.CountPairings(ctx, network)
		if err != nil {
			return err
		}
		if n >= mostPairings {
			return fmt.Errorf("%w: %d terminals wait already", ErrConflict, n)
		}
		return q.AddPairing(ctx, query.AddPairingParams{Code: code, Hash: hash, Network: network, MadeAt: millis(now)})
	})
}

// Pairing is the hash of the key of the terminal that shows a code since an instant, or
// ErrNotFound.
func (s *Store) Pairing(ctx context.Context, code string, since time.Time) (hash string, err error) {
	hash, err = s.read().Pairing(ctx, query.PairingParams{Code: code, Since: millis(since)})
	return hash, found(err)
}

// Pair makes the terminal that shows a code the page of somebody, whose device it is.
func (s *Store) Pair(ctx context.Context, code string, since time.Time, k KeptPage, d Device) error {
	return s.change(ctx, func(q *query.Queries) error {
		hash, err := q.Pairing(ctx, query.PairingParams{Code: code, Since: millis(since)})
		if err != nil {
			return found(err)
		}
		if err := q.DropPairing(ctx, code); err != nil {
			return err
		}
		if err := q.PutDevice(ctx, query.PutDeviceParams{
			Name: d.Name, Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth, ConnectedAt: millis(k.Kept),
		}); err != nil {
			return err
		}
		return keepPage(ctx, q, hash, k)
	})
}

// Paired reports whether a push address is that of a vehicle terminal that was paired.
func (s *Store) Paired(ctx context.Context, device string) (bool, error) {
	n, err := s.read().KeptDevice(ctx, device)
	return n > 0, err
}

// mostReceived is how many deliveries are read for a personal page.
const mostReceived = 500

// Received are the deliveries that left to somebody since an instant, of the newest messages
// first.
func (s *Store) Received(ctx context.Context, person roster.PersonID, since time.Time) ([]own.Received, error) {
	rows, err := s.read().GotBy(ctx, query.GotByParams{PersonID: int64(person), Since: millis(since), Most: mostReceived})
	if err != nil {
		return nil, err
	}
	list := make([]own.Received, len(rows))
	for i, row := range rows {
		g := own.Received{
			Message: row.MessageID, Desk: row.Apart != 0, Urgency: row.Urgency,
			Answer: int(row.Answer), Minutes: int(row.Minutes), Job: roster.GroupID(max(row.JobID, row.InJob)),
			Interrupts: row.Interrupts != 0, Delivery: row.DeliveryID, Key: row.Key, Channel: row.Channel,
			Address: row.Address, State: row.State, Left: at(row.QueuedAt), Subject: row.Subject, Body: row.Body,
			Link: row.Link, Language: row.Language,
		}
		if err := json.Unmarshal([]byte(row.Parts), &g.Parts); err != nil {
			return nil, fmt.Errorf("reading what delivery %d said: %w", g.Delivery, err)
		}
		var d message.Draft
		if err := draftForm.read(row.Draft, &d); err != nil {
			return nil, err
		}
		g.Question, g.Confirms = d.Question, d.MoveOn.Answered
		list[i] = g
	}
	return list, nil
}

// mostWrote is how much of what somebody wrote is read for a personal page.
const mostWrote = 100

// Wrote is what somebody wrote since an instant, the newest first.
func (s *Store) Wrote(ctx context.Context, person roster.PersonID, since time.Time) ([]own.Wrote, error) {
	rows, err := s.read().WroteAs(ctx, query.WroteAsParams{PersonID: int64(person), Since: millis(since), Most: mostWrote})
	list := make([]own.Wrote, len(rows))
	for i, row := range rows {
		list[i] = own.Wrote{
			ID: row.ID, At: at(row.At), Said: row.Said, Message: row.MessageID.Int64, Source: row.Source.String,
		}
		if err := json.Unmarshal([]byte(row.Files), &list[i].Files); err != nil {
			return nil, fmt.Errorf("reading the files of entry %d: %w", row.ID, err)
		}
	}
	return list, err
}

// WrittenBack is how much was written on the page of a delivery since an instant.
func (s *Store) WrittenBack(ctx context.Context, delivery string, since time.Time) (int, error) {
	first := own.BackKey(delivery, "")
	n, err := s.read().CountWrittenBack(ctx, query.CountWrittenBackParams{
		First: sql.NullString{String: first, Valid: true}, Past: sql.NullString{String: first + "~", Valid: true},
		Since: millis(since),
	})
	return int(n), err
}

// WrittenOnPage is how much somebody wrote on their page since an instant.
func (s *Store) WrittenOnPage(ctx context.Context, person roster.PersonID, since time.Time) (int, error) {
	n, err := s.read().CountWrittenOnPage(ctx, query.CountWrittenOnPageParams{
		PersonID: nullID(int64(person)), Since: millis(since),
	})
	return int(n), err
}
