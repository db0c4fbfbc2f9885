// Package messages is what accounts do with messages besides sending them: they
// begin drafts, keep them, join what two windows wrote, and see the messages of
// those whom they reach.
package messages

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Service keeps messages for accounts. A message that an account may not see is
// store.ErrNotFound to it.
type Service struct {
	Store *store.Store
	Now   func() time.Time
	// Moved is told which message was begun or deleted. It must not block.
	Moved func(messageID int64)
}

// ErrNotKept means that a draft is not as drafts are.
var ErrNotKept = errors.New("the draft was not kept")

// Authors are the accounts whose messages somebody may see.
func (s *Service) Authors(ctx context.Context, by access.Principal) ([]int64, error) {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, err
	}
	accounts, err := s.Store.Accounts(ctx)
	var list []int64
	for _, a := range accounts {
		if by.SeesMessagesOf(a.ID, a.Grant, r.Units) {
			list = append(list, a.ID)
		}
	}
	return list, err
}

// List returns the newest messages that somebody may see, and how many there are.
func (s *Service) List(ctx context.Context, by access.Principal, first, count int) ([]store.Heading, int, error) {
	authors, err := s.Authors(ctx, by)
	if err != nil {
		return nil, 0, err
	}
	list, all, err := s.Store.Messages(ctx, authors, first, count)
	if err != nil {
		return nil, 0, err
	}
	return list, all, s.awaits(ctx, list)
}

// awaits says of drafts how they wait for their readings.
func (s *Service) awaits(ctx context.Context, list []store.Heading) error {
	waiting, err := s.Store.Awaits(ctx)
	for i := range list {
		at := slices.IndexFunc(waiting, func(a store.Awaiting) bool { return a.Message == list[i].ID })
		if at >= 0 {
			list[i].Awaits = &waiting[at]
		}
	}
	return err
}

// Open are the drafts and what has not left, as far as somebody may see.
func (s *Service) Open(ctx context.Context, by access.Principal) ([]store.Heading, error) {
	authors, err := s.Authors(ctx, by)
	if err != nil {
		return nil, err
	}
	return s.Store.OpenMessages(ctx, authors)
}

// Naming are the titles of drafts and of messages on hold that name a group.
func (s *Service) Naming(ctx context.Context, by access.Principal, group roster.GroupID) ([]string, error) {
	open, err := s.Open(ctx, by)
	if err != nil {
		return nil, err
	}
	written, err := s.Store.Written(ctx, open)
	var titles []string
	for _, m := range written {
		if (m.State == store.Draft || m.State == store.Held) && m.Draft.Audience.Names(group) {
			titles = append(titles, m.Title)
		}
	}
	return titles, err
}

// Heading returns a message without what it says.
func (s *Service) Heading(ctx context.Context, by access.Principal, id int64) (store.Heading, error) {
	m, err := s.Store.Heading(ctx, id)
	if err != nil {
		return m, err
	}
	authors, err := s.Authors(ctx, by)
	if err == nil && (m.OfDesk || !slices.Contains(authors, m.AuthorID)) {
		err = store.ErrNotFound
	}
	return m, err
}

// Message returns a message as it was written.
func (s *Service) Message(ctx context.Context, by access.Principal, id int64) (store.Message, error) {
	if _, err := s.Heading(ctx, by, id); err != nil {
		return store.Message{}, err
	}
	return s.Store.Message(ctx, id)
}

// Begin makes a draft; it says what another message says, unless that is 0.
func (s *Service) Begin(ctx context.Context, by access.Principal, copyOf int64) (store.Message, error) {
	draft := message.Empty()
	if copyOf != 0 {
		m, err := s.Message(ctx, by, copyOf)
		if err != nil {
			return m, err
		}
		draft = m.Draft
		draft.SendAt, draft.Times = nil, nil // those were of that day
	}
	m, err := s.Store.AddDraft(ctx, by.ID, draft, s.Now())
	if err == nil && copyOf != 0 {
		err = s.Store.CopyCopies(ctx, copyOf, m.ID)
	}
	if err == nil {
		s.Moved(m.ID)
	}
	return m, err
}

// Keep keeps a draft and returns its new revision. The revision given is the one
// that was changed; a newer one is store.ErrConflict.
func (s *Service) Keep(
	ctx context.Context, by access.Principal, id, revision int64, draft message.Draft,
) (int64, error) {
	if err := draft.Validate(); err != nil {
		return 0, fmt.Errorf("%w: %w", ErrNotKept, err)
	}
	if _, err := s.Heading(ctx, by, id); err != nil {
		return 0, err
	}
	return s.Store.SaveDraft(ctx, id, revision, by.ID, draft, s.Now())
}

// Merged is what two windows wrote, joined.
type Merged struct {
	Revision int64 // that was made; the newer one when nothing was kept
	Draft    message.Draft
	Clash    []string // what both changed; nothing was kept then
}

// Merge joins what a window wrote since it last kept a draft with what another one
// kept meanwhile, and keeps both unless they clash.
func (s *Service) Merge(
	ctx context.Context, by access.Principal, id int64, base, draft message.Draft,
) (Merged, error) {
	if err := draft.Validate(); err != nil {
		return Merged{}, fmt.Errorf("%w: %w", ErrNotKept, err)
	}
	m, err := s.Message(ctx, by, id)
	if err == nil && m.State != store.Draft {
		err = store.ErrConflict
	}
	if err != nil {
		return Merged{}, err
	}
	out := Merged{Revision: m.Revision}
	if out.Draft, out.Clash, err = message.Merge(base, draft, m.Draft); err != nil || len(out.Clash) > 0 {
		return out, err
	}
	out.Revision, err = s.Store.SaveDraft(ctx, id, m.Revision, by.ID, out.Draft, s.Now())
	return out, err
}

// Delete deletes a draft.
func (s *Service) Delete(ctx context.Context, by access.Principal, id int64) error {
	if _, err := s.Heading(ctx, by, id); err != nil {
		return err
	}
	if err := s.Store.DeleteDraft(ctx, id); err != nil {
		return err
	}
	s.Moved(id)
	return nil
}

// Versions lists the history of a draft, newest first.
func (s *Service) Versions(ctx context.Context, by access.Principal, id int64) ([]store.Version, error) {
	if _, err := s.Heading(ctx, by, id); err != nil {
		return nil, err
	}
	return s.Store.Versions(ctx, id)
}

// Strip is what concerns somebody now: what is held, goes out, comes next, is late,
// and to which drafts they are asked to say yes. Each is in one list.
type Strip struct {
	Held    []store.Heading
	Sending []store.Heading
	Next    []store.Heading // scheduled, soonest first
	Late    []store.Heading // their time passed while the program was down
	Asked   []store.Heading
	Unsent  []store.Heading // drafts that waited for their readings and did not leave
}

// Strip returns what concerns somebody now.
func (s *Service) Strip(ctx context.Context, by access.Principal) (Strip, error) {
	var out Strip
	open, err := s.Open(ctx, by)
	if err != nil {
		return out, err
	}
	err = s.awaits(ctx, open)
	for _, m := range open {
		switch {
		case m.Awaits != nil && m.Awaits.Failed != "":
			out.Unsent = append(out.Unsent, m)
		case m.Asks(by.ID) && by.May(access.Write):
			out.Asked = append(out.Asked, m)
		case m.State != store.Held && m.State != store.Sending:
		case m.Late:
			out.Late = append(out.Late, m)
		case m.State == store.Sending:
			out.Sending = append(out.Sending, m)
		case m.ForItsTime():
			out.Next = append(out.Next, m)
		default:
			out.Held = append(out.Held, m)
		}
	}
	slices.SortStableFunc(out.Next, func(a, b store.Heading) int { return a.LeavesAt.Compare(b.LeavesAt) })
	return out, err
}

// recently is how far back it is looked for what a person got.
const recently = 30 * 24 * time.Hour

// Got is what a person got of late. Messages that somebody may not see have neither
// number nor title.
func (s *Service) Got(ctx context.Context, by access.Principal, person roster.PersonID) ([]store.Got, error) {
	got, err := s.Store.Got(ctx, person, s.Now().Add(-recently))
	if err != nil {
		return nil, err
	}
	authors, err := s.Authors(ctx, by)
	for i := range got {
		if !slices.Contains(authors, got[i].Author) {
			got[i].Message, got[i].Title = 0, "a message of another unit"
		}
	}
	return got, err
}

// Titled are the messages that somebody may see whose title holds what is looked
// for, the newest first.
func (s *Service) Titled(
	ctx context.Context, by access.Principal, search string, most int,
) ([]store.MessageTitle, error) {
	if !by.May(access.Write) && !by.May(access.ReadRecords) {
		return nil, nil
	}
	authors, err := s.Authors(ctx, by)
	if err != nil {
		return nil, err
	}
	titles, err := s.Store.MessageTitles(ctx, authors)
	var list []store.MessageTitle
	for _, m := range titles {
		if len(list) < most && strings.Contains(roster.Fold(m.Title), roster.Fold(search)) {
			list = append(list, m)
		}
	}
	return list, err
}
