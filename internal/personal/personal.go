// Package personal is the page of somebody without an account: what they got, and what
// they do about it.
package personal

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/job"
	"upperlantern/internal/core/own"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/store"
)

// Errors that whoever holds a page is told.
var (
	ErrNotTheirs = errors.New("this message is not on the page")
	ErrTooMuch   = errors.New("too much was written in a short time")
	ErrEmpty     = errors.New("there is nothing to send")
	ErrKind      = errors.New("this file is not taken")
)

// Store is what the pages need of the store.
type Store interface {
	Received(ctx context.Context, person roster.PersonID, since time.Time) ([]own.Received, error)
	Wrote(ctx context.Context, person roster.PersonID, since time.Time) ([]own.Wrote, error)
	WrittenOnPage(ctx context.Context, person roster.PersonID, since time.Time) (int, error)
	File(ctx context.Context, hash string) (mediaType, path string, err error)
}

// Visits finds who holds a link or keeps a page.
type Visits interface {
	Visit(ctx context.Context, token string) (editing.Visitor, error)
}

// Desks take what is written on a page.
type Desks interface {
	Take(ctx context.Context, item incoming.Item) error
	Say(ctx context.Context, key string, g asking.Given, person roster.PersonID) error
}

// Service serves the pages.
type Service struct {
	Store  Store
	Visits Visits
	Desks  Desks
	Report func(context.Context, delivery.Report) error
	Now    func() time.Time
}

// Page is what the holder of a page sees.
type Page struct {
	editing.Visitor
	Items  []own.Item
	Others []own.Wrote // what they wrote beside what answers any of it
}

// Page returns the page of whoever holds a token. What a vehicle terminal fetches has
// arrived there.
func (s *Service) Page(ctx context.Context, token string) (Page, error) {
	v, err := s.Visits.Visit(ctx, token)
	if err != nil {
		return Page{}, err
	}
	p := Page{Visitor: v}
	now := s.Now()
	received, err := s.Store.Received(ctx, v.Sheet.ID, now.Add(-own.Shows))
	if err != nil {
		return p, fmt.Errorf("reading what person %d got: %w", v.Sheet.ID, err)
	}
	wrote, err := s.Store.Wrote(ctx, v.Sheet.ID, now.Add(-own.Shows))
	if err != nil {
		return p, fmt.Errorf("reading what person %d wrote: %w", v.Sheet.ID, err)
	}
	p.Items, p.Others = own.Page(received, wrote, openJobs(v.Roster, v.Sheet.ID, now), v.Kept.Device, now)
	return p, s.arrived(ctx, received, v.Kept.Device, now)
}

// openJobs are the jobs of somebody that are not closed.
func openJobs(r *roster.Roster, p roster.PersonID, now time.Time) []roster.GroupID {
	var list []roster.GroupID
	at, ok := r.Position(p)
	if !ok {
		return nil
	}
	for _, id := range r.GroupsOf(at) {
		g, ok := r.Group(id)
		if ok && g.Kind == roster.Job && job.Standing(*g, now) != job.Closed {
			list = append(list, id)
		}
	}
	return list
}

// arrived reports of what a terminal fetched that it is there. On a full disk that is
// reported later: a terminal shows what it must show all the same.
func (s *Service) arrived(ctx context.Context, received []own.Received, device string, now time.Time) error {
	for _, r := range own.Fetched(received, device) {
		err := s.Report(ctx, delivery.Report{
			Via: delivery.ViaDevice, DeliveryKey: r.Key, Key: "fetched", State: delivery.Arrived,
			Detail: "shown on the terminal", OccurredAt: now,
		})
		if errors.Is(err, store.ErrFull) {
			return nil
		}
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return fmt.Errorf("reporting that delivery %d arrived: %w", r.Delivery, err)
		}
	}
	return nil
}

// item is a message on the page of whoever holds a token.
func (s *Service) item(ctx context.Context, token string, id int64) (Page, own.Item, error) {
	p, err := s.Page(ctx, token)
	if err != nil {
		return p, own.Item{}, err
	}
	at := slices.IndexFunc(p.Items, func(i own.Item) bool { return i.Message == id })
	if at < 0 {
		return p, own.Item{}, ErrNotTheirs
	}
	return p, p.Items[at], nil
}

// Open notes that a message was opened on the page, or, if they confirm it, that they
// know. On a terminal a touch is both.
func (s *Service) Open(ctx context.Context, token string, id int64, confirms bool) error {
	p, i, err := s.item(ctx, token, id)
	if err != nil {
		return err
	}
	state, said := delivery.Opened, "opened on their page"
	if confirms && (i.Confirms || p.Kept.Device == "") {
		state, said = delivery.Answered, "confirmed on their page"
	}
	key, via := i.Key, delivery.ViaOf(i.Channel)
	if i.OnDevice != "" {
		key, via = i.OnDevice, delivery.ViaDevice
	}
	if i.OnDevice == "" && i.State == delivery.Failed {
		return nil // what is read here says nothing of the address that failed
	}
	err = s.Report(ctx, delivery.Report{
		Via: via, DeliveryKey: key, Key: "page " + string(state), State: state, Detail: said, OccurredAt: s.Now(),
	})
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	return err
}

// Answer keeps the answer to a question of a message.
func (s *Service) Answer(ctx context.Context, token string, id int64, g asking.Given) error {
	p, i, err := s.item(ctx, token, id)
	if err != nil {
		return err
	}
	return s.Desks.Say(ctx, i.Key, g, p.Sheet.ID)
}

// Written is something that somebody writes on their page.
type Written struct {
	Key  string // of theirs, by which it is known when it comes twice
	Item int64  // what it answers; 0 for nothing
	Text string
	File *incoming.File // nil for words alone
}

// Write takes what somebody writes on their page to the desk. What came before, by its
// key, changes nothing. A file of a kind that is not kept is refused, with the reason of
// attachment.Check.
func (s *Service) Write(ctx context.Context, token string, w Written) error {
	p, err := s.Page(ctx, token)
	if err != nil {
		return err
	}
	item := incoming.Item{
		Key: fmt.Sprintf("page %d %s", p.Sheet.ID, w.Key), Person: p.Sheet.ID, Name: p.Sheet.Name(), Text: w.Text, At: s.Now(),
	}
	if w.File != nil {
		if _, err := attachment.Check(w.File.Name, w.File.Content); err != nil {
			return fmt.Errorf("%w: %w", ErrKind, err)
		}
		item.Files = []incoming.File{*w.File}
	}
	item = item.Bounded(s.Now())
	if strings.TrimSpace(item.Text) == "" && w.File == nil {
		return ErrEmpty
	}
	if p.has(item.Key) {
		return nil
	}
	if w.Item != 0 {
		at := slices.IndexFunc(p.Items, func(i own.Item) bool { return i.Message == w.Item })
		if at < 0 {
			return ErrNotTheirs
		}
		item.Delivery = p.Items[at].Key
	}
	n, err := s.Store.WrittenOnPage(ctx, p.Sheet.ID, s.Now().Add(-own.WritesIn))
	if err != nil {
		return err
	}
	if n >= own.MostWrites {
		return ErrTooMuch
	}
	return s.Desks.Take(ctx, item)
}

// has reports whether something that they wrote came already.
func (p Page) has(key string) bool {
	came := func(w own.Wrote) bool { return w.Source == key }
	return slices.ContainsFunc(p.Others, came) ||
		slices.ContainsFunc(p.Items, func(i own.Item) bool { return slices.ContainsFunc(i.Wrote, came) })
}

// File is a file that came with a message.
func (s *Service) File(ctx context.Context, token string, id int64, hash string) (attachment.File, []byte, error) {
	_, i, err := s.item(ctx, token, id)
	if err != nil {
		return attachment.File{}, nil, err
	}
	at := slices.IndexFunc(i.Parts.Files, func(f attachment.File) bool { return f.Hash == hash })
	if at < 0 {
		return attachment.File{}, nil, ErrNotTheirs
	}
	f := i.Parts.Files[at]
	_, path, err := s.Store.File(ctx, hash)
	if err != nil {
		return f, nil, err
	}
	content, err := os.ReadFile(path)
	return f, content, err
}
