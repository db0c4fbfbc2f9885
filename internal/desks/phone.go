package desks

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

// phoneOf is the number at which whoever signs in with a login is told; "" of somebody
// who has none on the roster.
func phoneOf(r *roster.Roster, login string) string {
	p := r.Behind(login)
	if p == nil {
		return ""
	}
	at := slices.IndexFunc(p.Addresses, func(a roster.Address) bool { return a.Channel == roster.Text && a.Usable() })
	if at < 0 {
		return ""
	}
	return p.Addresses[at].Value
}

// Phone is the number at which an account would be told by text, "" for none, and whether
// it is told what comes in at a desk.
func (s *Service) Phone(ctx context.Context, id desk.ID, by access.Principal) (number string, on bool, err error) {
	if _, err := s.Desk(ctx, id, by); err != nil {
		return "", false, err
	}
	account, err := s.Store.Account(ctx, by.ID)
	if err != nil {
		return "", false, err
	}
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return "", false, err
	}
	told, err := s.Store.Told(ctx)
	on = slices.ContainsFunc(told, func(m store.ToldMember) bool { return m.Desk == id && m.Account == by.ID })
	return phoneOf(r, account.Login), on, err
}

// TellMe keeps whether an account is told by text what comes in at a desk.
func (s *Service) TellMe(ctx context.Context, id desk.ID, on bool, by access.Principal) error {
	number, _, err := s.Phone(ctx, id, by)
	if err != nil {
		return err
	}
	if on && number == "" {
		return fmt.Errorf("%w: nobody on the roster has your sign-in as a mailbox and a number for texts", ErrRefused)
	}
	return s.Store.SetTold(ctx, id, by.ID, on)
}

// tellPhones tells by text of what waits for us, those who asked for it.
func (s *Service) tellPhones(ctx context.Context) error {
	told, err := s.Store.Told(ctx)
	if err != nil || len(told) == 0 || s.Tell == nil {
		return err
	}
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return err
	}
	all, err := s.Store.Desks(ctx)
	if err != nil {
		return err
	}
	for _, m := range told {
		at := slices.IndexFunc(all, func(d desk.Desk) bool { return d.ID == m.Desk })
		number := phoneOf(r, m.Login)
		if at < 0 || number == "" {
			continue
		}
		err = errors.Join(err, s.tellPhone(ctx, m, all[at].Name, number))
	}
	return err
}

// tellPhone tells one account of what waits at a desk. It is kept before it is told: cut
// off in between, they are told when something is said further.
func (s *Service) tellPhone(ctx context.Context, m store.ToldMember, name, number string) error {
	now := s.Now()
	list, err := s.Store.Untold(ctx, m, now)
	if err != nil {
		return err
	}
	for _, u := range list {
		if s.looks(u.Thread, m.Account) {
			continue
		}
		code, err := s.Store.Code(ctx, m.Account, u, now)
		if err != nil || code == 0 {
			return err
		}
		if err := s.tellSoon(ctx, number, desk.Notice(name, u.Name, u.Said, code)); err != nil {
			s.Log.Warn("somebody of a desk could not be told by text", "account", m.Account, "error", err)
			return s.Store.NotTold(ctx, m.Account, u.Thread) // the carrier has trouble: the rest is told later
		}
	}
	return nil
}

// tellFor is how long a text to somebody of a desk is handed over: others wait meanwhile.
const tellFor = 5 * time.Second

func (s *Service) tellSoon(ctx context.Context, number, text string) error {
	ctx, done := context.WithTimeout(ctx, tellFor)
	defer done()
	return s.Tell(ctx, number, text)
}

// looks reports whether an account looks at a thread.
func (s *Service) looks(thread, account int64) bool {
	s.present.mu.Lock()
	defer s.present.mu.Unlock()
	here := s.present.others(thread, 0, s.Now())
	return slices.ContainsFunc(here, func(p Present) bool { return p.Account == account })
}

// fromPhone sends what somebody of a desk wrote from their own phone. It reports whether
// a text was that.
func (s *Service) fromPhone(ctx context.Context, item incoming.Item) (bool, error) {
	code, words, ok := desk.ReadCode(item.Text)
	if item.Channel != roster.Text || !ok {
		return false, nil
	}
	account, thread, err := s.byCode(ctx, item.From, code)
	if err != nil || thread == 0 {
		return false, err
	}
	by := account.Principal(access.Inside)
	_, err = s.Answer(ctx, thread, Said{Text: words, Key: "phone " + item.Key}, by)
	switch {
	case err == nil:
		return true, s.Read(ctx, thread, by)
	case errors.Is(err, store.ErrConflict):
		return true, nil // it came before
	case errors.Is(err, ErrRefused), errors.Is(err, sending.ErrBlocked), errors.Is(err, ErrNotHere):
		told := s.tellSoon(ctx, item.From, "Not sent: "+err.Error()+".")
		if told != nil {
			s.Log.Warn("somebody could not be told that an answer was not sent", "error", told)
		}
		return true, nil
	}
	return false, fmt.Errorf("answering from a phone: %w", err)
}

// byCode finds whose code a text from a number begins with, and for which thread it
// stands; 0 when it is none.
func (s *Service) byCode(ctx context.Context, number string, code int) (store.Account, int64, error) {
	none := store.Account{}
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return none, 0, err
	}
	accounts, err := s.Store.Accounts(ctx)
	if err != nil {
		return none, 0, err
	}
	since := s.Now().Add(-desk.CodeHolds)
	for _, a := range accounts {
		if !a.Active || phoneOf(r, a.Login) != number {
			continue
		}
		thread, err := s.Store.ThreadOfCode(ctx, a.ID, code, since)
		if err == nil {
			return a, thread, nil
		}
		if !errors.Is(err, store.ErrNotFound) {
			return none, 0, err
		}
	}
	return none, 0, nil
}
