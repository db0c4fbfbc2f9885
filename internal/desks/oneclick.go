package desks

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Ended is what became of a wish to get no more emails of a kind.
type Ended struct {
	Address      string
	Organisation string
	Words        phrase.Words // in the language of whoever wishes it
	Before       bool         // they got no more of them before
}

// OneClick finds to whom an email went, by the key of its delivery, and lets them get no
// more everyday emails there, or get them again. Only says who it is when do is false.
// An address that its recipient no longer has, or that was nobody's, is ErrNotFound.
func (s *Service) OneClick(ctx context.Context, key string, do, again bool) (Ended, error) {
	a, err := s.Store.Answers(ctx, key)
	if err != nil {
		return Ended{}, err
	}
	if a.Channel != roster.Email {
		return Ended{}, store.ErrNotFound
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return Ended{}, err
	}
	out := Ended{Address: a.Address, Organisation: o.Name, Words: phrase.In(o.Language)}
	for range 3 { // somebody may be changing the same person
		if err = s.declines(ctx, a, &out, do, again); !errors.Is(err, store.ErrConflict) {
			break
		}
	}
	return out, err
}

// declines changes what the recipients of a delivery decline at its address.
func (s *Service) declines(ctx context.Context, a store.Answered, out *Ended, do, again bool) error {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return err
	}
	e := &roster.Edit{Kind: roster.Changed, Said: "everyday emails ended with one click, by themselves"}
	if again {
		e.Said = "everyday emails taken up again, by themselves"
	}
	out.Before = true
	for _, i := range r.Holders(a.Address) {
		p := r.At(i)
		if !slices.Contains(a.To, p.ID) {
			continue
		}
		if p.Language != "" {
			out.Words = phrase.In(p.Language)
		}
		before := r.Sheet(p.ID)
		after := before.Clone()
		for n := range after.Addresses {
			if own := &after.Addresses[n]; own.Channel == roster.Email && own.Value == a.Address {
				out.Before = out.Before && own.DeclinesRoutine
				own.DeclinesRoutine = !again
			}
		}
		e.People = append(e.People, roster.PersonEdit{Before: before, After: after})
	}
	if len(e.People) == 0 { // nobody on the roster has it any more: nothing could be kept
		return store.ErrNotFound
	}
	if !do {
		return nil
	}
	if _, err := s.Store.Apply(ctx, 0, e, s.Now(), nil); err != nil {
		return fmt.Errorf("keeping what %s declines: %w", a.Address, err)
	}
	return nil
}
