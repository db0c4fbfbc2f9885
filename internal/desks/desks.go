// Package desks looks after what comes back: it finds out who wrote and what they
// answer, keeps it in a thread at a desk, and writes back.
package desks

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
)

// Sender sends what a desk writes.
type Sender interface {
	SendAnswer(ctx context.Context, a sending.Answer, by access.Principal) (int64, error)
	Weigh(ctx context.Context, a sending.Answer, by access.Principal) (sending.Weighed, error)
	SendRound(ctx context.Context, r sending.Round, by access.Principal) (int64, error)
	WeighRound(ctx context.Context, r sending.Round, by access.Principal) (*sending.Worked, error)
}

// Reader says a text in another language.
type Reader interface {
	Say(ctx context.Context, from, to, text string, naming bool) (translation.Spoken, error)
}

// Service looks after threads.
type Service struct {
	Store  *store.Store
	Sender Sender
	Report Reporter
	Reader Reader // nil while nothing says texts in other languages
	Now    func() time.Time
	// Changed is told when something of a desk changed.
	Changed func(of desk.ID)
	// Answered is told the message whose question was answered. It must not block.
	Answered func(message int64)
	// Tell hands a text to somebody of the office over at once.
	Tell func(ctx context.Context, number, text string) error
	Log  *slog.Logger

	present presence
}

// ErrNotHere means that somebody does not sit at a desk, or that it is not there: they
// are told the same.
var ErrNotHere = store.ErrNotFound

// ErrRefused means that something cannot be done in a thread, and why.
var ErrRefused = errors.New("this cannot be done here")

// ErrTooMuch means that too much was written on a page in a short time.
var ErrTooMuch = errors.New("too much was written in a short time")

// Mine are the desks at which an account sits.
func (s *Service) Mine(ctx context.Context, by access.Principal) ([]desk.Desk, error) {
	all, err := s.Store.Desks(ctx)
	return slices.DeleteFunc(all, func(d desk.Desk) bool { return !d.Sits(by.ID) }), err
}

// Desk is a desk at which an account sits.
func (s *Service) Desk(ctx context.Context, id desk.ID, by access.Principal) (desk.Desk, error) {
	mine, err := s.Mine(ctx, by)
	if err != nil {
		return desk.Desk{}, err
	}
	for _, d := range mine {
		if d.ID == id {
			return d, nil
		}
	}
	return desk.Desk{}, ErrNotHere
}

// Thread is a thread at a desk where an account sits.
func (s *Service) Thread(ctx context.Context, id int64, by access.Principal) (store.Thread, error) {
	t, err := s.Store.Thread(ctx, id)
	if err != nil {
		return t, err
	}
	_, err = s.Desk(ctx, t.Desk, by)
	return t, err
}

// do changes a thread for somebody who sits at its desk.
func (s *Service) do(ctx context.Context, id int64, by access.Principal, change func(store.Thread) error) error {
	t, err := s.Thread(ctx, id, by)
	if err != nil {
		return err
	}
	if err := change(t); err != nil {
		return err
	}
	s.Changed(t.Desk)
	return nil
}

// Read keeps that somebody of the desk read a thread: then the whole desk has.
func (s *Service) Read(ctx context.Context, id int64, by access.Principal) error {
	t, err := s.Thread(ctx, id, by)
	if err != nil || !t.Unread {
		return err
	}
	return s.do(ctx, id, by, func(store.Thread) error { return s.Store.ReadThread(ctx, id) })
}

// Settle says that there is nothing to say.
func (s *Service) Settle(ctx context.Context, id int64, by access.Principal) error {
	return s.do(ctx, id, by, func(store.Thread) error {
		return s.Store.MoveThread(ctx, id, func(at desk.Standing) desk.Standing { return at.Settled(s.Now()) })
	})
}

// BringBack makes a thread wait for us again at a time.
func (s *Service) BringBack(ctx context.Context, id int64, at time.Time, by access.Principal) error {
	if !at.After(s.Now()) {
		return fmt.Errorf("%w: choose a time that is still to come", ErrRefused)
	}
	return s.do(ctx, id, by, func(store.Thread) error {
		return s.Store.MoveThread(ctx, id, func(now desk.Standing) desk.Standing { return now.Returns(s.Now(), at) })
	})
}

// LeaveForNextShift makes a thread unread again, with a note that stays inside.
func (s *Service) LeaveForNextShift(ctx context.Context, id int64, note string, by access.Principal) error {
	return s.do(ctx, id, by, func(store.Thread) error {
		if note = strings.TrimSpace(note); note != "" {
			note = by.Name + ": " + note
		}
		return s.Store.LeaveThread(ctx, id, note, s.Now())
	})
}

// Hand gives a thread to somebody who sits at its desk, or to nobody with 0.
func (s *Service) Hand(ctx context.Context, id, account int64, by access.Principal) error {
	return s.do(ctx, id, by, func(t store.Thread) error {
		d, err := s.Desk(ctx, t.Desk, by)
		if err != nil {
			return err
		}
		if account != 0 && !d.Sits(account) {
			return fmt.Errorf("%w: they do not sit at this desk", ErrRefused)
		}
		return s.Store.HoldThread(ctx, id, account)
	})
}

// Note writes a note that never leaves.
func (s *Service) Note(ctx context.Context, id int64, text string, by access.Principal) error {
	text = strings.TrimSpace(text)
	if text == "" {
		return fmt.Errorf("%w: a note needs words", ErrRefused)
	}
	return s.do(ctx, id, by, func(store.Thread) error {
		return s.Store.NoteThread(ctx, id, store.Entry{
			Kind: store.EntryNote, At: s.Now(), Name: by.Name, Account: by.ID, Said: text,
		})
	})
}

// Identify says who writes from the address of a thread, and returns the thread in which
// what was said with them is.
func (s *Service) Identify(
	ctx context.Context, id int64, p roster.PersonID, by access.Principal,
) (thread int64, err error) {
	r, err := s.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return 0, err
	}
	person := r.Person(p)
	if person == nil {
		return 0, fmt.Errorf("%w: this person is not on the roster", ErrRefused)
	}
	err = s.do(ctx, id, by, func(t store.Thread) error {
		if t.With.Many() {
			return fmt.Errorf("%w: this thread is with many", ErrRefused)
		}
		if t.Person != 0 && t.Person != p {
			return fmt.Errorf("%w: it is known already who this is", ErrRefused)
		}
		thread, err = s.Store.Identify(ctx, t, p, person.Name(), s.Now())
		return err
	})
	return thread, err
}

// Tick lets time pass: what was to be brought back comes back, and what nobody answered
// for long becomes quiet.
func (s *Service) Tick(ctx context.Context) error {
	changed, err := s.Store.PassThreads(ctx, s.Now())
	for _, id := range changed {
		if t, failed := s.Store.Thread(ctx, id); failed == nil {
			s.Changed(t.Desk)
		}
	}
	return errors.Join(err, s.tellPhones(ctx))
}
