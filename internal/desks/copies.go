package desks

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
)

// Left is what came in and cannot be read in the desk's language.
type Left struct {
	Entries  int
	Withheld int    // lines that name somebody and were not sent to the service
	Note     string // why
}

// ReadCopies lets what came into a thread be read in the desk's language, as far as the
// memory and the translation service can say it. Lines that name somebody of the roster
// are sent to the service only if naming says so.
func (s *Service) ReadCopies(
	ctx context.Context, id int64, naming bool, by access.Principal,
) (left Left, err error) {
	t, err := s.Thread(ctx, id, by)
	if err != nil || s.Reader == nil {
		return left, err
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return left, err
	}
	list, err := s.Store.Uncopied(ctx, id)
	if err != nil {
		return left, err
	}
	changed := false
	for _, e := range list {
		said, err := s.readCopy(ctx, e, o.Language, naming)
		switch {
		case err != nil:
			return left, err
		case said.Text != "":
			changed = true
		case !copies.SameLanguage(e.Language, o.Language):
			left.Entries, left.Withheld, left.Note = left.Entries+1, left.Withheld+said.Withheld, why(said)
		}
	}
	if changed {
		s.Changed(t.Desk)
	}
	return left, nil
}

// readCopy keeps something that came in as the desk reads it, if it can be said so.
func (s *Service) readCopy(
	ctx context.Context, e store.Uncopied, ours string, naming bool,
) (said translation.Spoken, err error) {
	if copies.SameLanguage(e.Language, ours) {
		return said, nil
	}
	said, err = s.Reader.Say(ctx, e.Language, ours, e.Said, naming)
	if err != nil || said.Text == "" {
		return said, err
	}
	return said, s.Store.CopyEntry(ctx, e, store.Copied{Language: said.Language, Text: said.Text, Checked: said.Checked})
}

// How much of what came in is read before anybody opens it: of the latest, some at a time.
const readLatest, readAtOnce = 500, 100

// ReadNew lets what came in lately be read in the desk's language, so that the list of
// threads can be understood; it tries each once, and goes on after the entry that it
// returns. Whoever opens a thread has the rest of it read.
func (s *Service) ReadNew(ctx context.Context, after int64) (int64, error) {
	if s.Reader == nil {
		return after, nil
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return after, err
	}
	list, err := s.Store.NewlyUncopied(ctx, after, readLatest, readAtOnce)
	changed := map[desk.ID]bool{}
	for _, e := range list {
		after = e.ID
		said, failed := s.readCopy(ctx, e, o.Language, false)
		err = errors.Join(err, failed)
		if said.Text != "" && failed == nil {
			changed[e.Desk] = true
		}
	}
	for id := range changed {
		s.Changed(id)
	}
	return after, err
}

// why says why a text is not said in another language.
func why(said translation.Spoken) string {
	if said.Withheld > 0 {
		return "It names somebody of the roster, so it was not sent to the translation service."
	}
	if said.Note != "" {
		return said.Note
	}
	return "The translation service cannot say all of it."
}

// Copy is what somebody would get instead of what the desk wrote.
type Copy struct {
	translation.Spoken
	Speaks string // the language's name in English
	Note   string // why there is none; "" when there is
}

// Copy says what the desk is writing in the language of whom a thread is with. A desk
// that writes in their language, or does not know it, gets none.
func (s *Service) Copy(ctx context.Context, id int64, text string, naming bool, by access.Principal) (Copy, error) {
	t, err := s.Thread(ctx, id, by)
	if err != nil {
		return Copy{}, err
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return Copy{}, err
	}
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return Copy{}, err
	}
	p := r.Person(t.Person)
	reads := p != nil && t.Person != 0 && p.Language != "" && !copies.SameLanguage(p.Language, o.Language)
	if !reads || s.Reader == nil || strings.TrimSpace(text) == "" {
		return Copy{}, nil
	}
	said, err := s.Reader.Say(ctx, o.Language, p.Language, strings.TrimSpace(text), naming)
	if err != nil {
		return Copy{}, err
	}
	c := Copy{Spoken: said, Speaks: roster.LanguageName(p.Language)}
	if said.Text == "" {
		c.Note = why(said)
	}
	return c, nil
}

// asCopy is a copy that is sent, which has to be in the language that they read.
func (s *Service) asCopy(ctx context.Context, t store.Thread, said Said) (store.Copied, error) {
	if strings.TrimSpace(said.Copy) == "" {
		return store.Copied{}, nil
	}
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return store.Copied{}, err
	}
	p := r.Person(t.Person)
	if p == nil || t.Person == 0 || p.Language == "" {
		return store.Copied{}, fmt.Errorf("%w: it is not known what they read", ErrRefused)
	}
	return store.Copied{Language: p.Language, Text: strings.TrimSpace(said.Copy)}, nil
}
