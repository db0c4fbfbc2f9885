package desks

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

// Place is where an answer can go.
type Place struct {
	Channel roster.Channel
	Address string
	Usual   bool   // they last wrote from there
	Aside   string // why it cannot be used, in words; "" when it can
}

// asideWords say why an address cannot be used.
var asideWords = map[precedence.Aside]string{
	precedence.Dead: "it is dead", precedence.Stopped: "they asked to be sent nothing there",
	precedence.Withheld: "they declined it", precedence.Uncarried: "nothing carries it yet",
	precedence.Unconnected: "the device is not connected",
}

// Places are where an answer in a thread can go: where they last wrote from first.
func (s *Service) Places(ctx context.Context, t store.Thread) ([]Place, error) {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, err
	}
	rules := precedence.Rules{
		Urgency: roster.Timely, Steps: precedence.Steps{roster.Channels}, Content: func(roster.Channel) bool { return true },
	}
	var list []Place
	if p := r.Person(t.Person); p != nil && t.Person != 0 {
		for _, a := range p.Addresses {
			list = append(list, Place{Channel: a.Channel, Address: a.Value, Aside: asideWords[rules.Judge(a)]})
		}
	}
	usual := func(p Place) bool { return p.Channel == t.Channel && p.Address == t.Address }
	if t.Address != "" && !slices.ContainsFunc(list, usual) {
		own := Place{Channel: t.Channel, Address: t.Address}
		if stopped, err := s.Store.Stopped(ctx, t.Channel, t.Address); err != nil {
			return nil, err
		} else if stopped {
			own.Aside = asideWords[precedence.Stopped]
		}
		list = append(list, own)
	}
	slices.SortStableFunc(list, func(a, b Place) int {
		return cmp.Or(first(usual(a), usual(b)), first(a.Aside == "", b.Aside == ""))
	})
	if len(list) > 0 {
		list[0].Usual = true
	}
	return list, nil
}

// first puts what something holds of before what it does not hold of.
func first(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return -1
	}
	return 1
}

// Said is what somebody of a desk writes.
type Said struct {
	Text    string
	Copy    string         // in their language, as which it leaves; "" for as it was written
	Channel roster.Channel // "" for where they last wrote from
	Address string
	Files   []attachment.File // that go with an email
	// Interrupts lets a push stay until it is touched; for other channels it means nothing.
	Interrupts bool
	// Seen is the last entry that they saw, 0 for whatever there is: if a colleague
	// answered since, nothing is sent.
	Seen int64
	Key  string // by which what was written elsewhere is known when it comes twice
}

// overtaken refuses what is written past an answer of a colleague.
func (s *Service) overtaken(ctx context.Context, t store.Thread, seen int64, by access.Principal) error {
	if seen == 0 {
		return nil
	}
	entries, err := s.Store.Entries(ctx, t.ID, shownEntries)
	for _, e := range entries {
		if e.ID > seen && e.Kind == store.EntryOut && e.Account != 0 && e.Account != by.ID {
			return fmt.Errorf("%w: %s answered meanwhile; read that first", ErrRefused, e.Name)
		}
	}
	return err
}

// answer is what is sent, if it can go where it is to go.
func (s *Service) answer(ctx context.Context, t store.Thread, said Said) (sending.Answer, error) {
	none := sending.Answer{}
	if t.With.Many() {
		return none, fmt.Errorf("%w: this thread is with many; write to all in it", ErrRefused)
	}
	if strings.TrimSpace(said.Text) == "" {
		return none, fmt.Errorf("%w: an answer needs words", ErrRefused)
	}
	places, err := s.Places(ctx, t)
	if err != nil {
		return none, err
	}
	if len(places) == 0 {
		return none, fmt.Errorf("%w: the roster has no address of theirs", ErrRefused)
	}
	to := places[0]
	if said.Channel != "" {
		at := slices.IndexFunc(places, func(p Place) bool { return p.Channel == said.Channel && p.Address == said.Address })
		if at < 0 {
			return none, fmt.Errorf("%w: this address is not theirs", ErrRefused)
		}
		to = places[at]
	}
	if to.Aside != "" {
		return none, fmt.Errorf("%w: nothing can go to %s: %s", ErrRefused, to.Address, to.Aside)
	}
	if err := s.mayCarry(ctx, to, said.Files); err != nil {
		return none, err
	}
	a := sending.Answer{
		Thread: t.ID, Channel: to.Channel, Address: to.Address, Text: strings.TrimSpace(said.Text), Files: said.Files,
		Interrupts: said.Interrupts && to.Channel == roster.Push, Key: said.Key,
	}
	if a.Copy, err = s.asCopy(ctx, t, said); err != nil {
		return none, err
	}
	if to.Channel == roster.Email {
		a.Subject, err = s.subject(ctx, t)
	}
	return a, err
}

// mayCarry refuses files that cannot go to a place, or that are not here.
func (s *Service) mayCarry(ctx context.Context, to Place, files []attachment.File) error {
	if len(files) == 0 {
		return nil
	}
	if to.Channel != roster.Email {
		return fmt.Errorf("%w: files go with an email; choose their mailbox, or take the files away", ErrRefused)
	}
	return s.areHere(ctx, files)
}

// areHere refuses files that were never added here, or are not here any more.
func (s *Service) areHere(ctx context.Context, files []attachment.File) error {
	missing, err := s.Store.Missing(ctx, files)
	if err != nil {
		return err
	}
	if len(missing) > 0 {
		return fmt.Errorf("%w: %s is not here any more; add it again", ErrRefused, strings.Join(missing, ", "))
	}
	return nil
}

// AddFile keeps a file that is to go with an answer in a thread.
func (s *Service) AddFile(
	ctx context.Context, id int64, name string, content []byte, by access.Principal,
) (attachment.File, error) {
	if _, err := s.Thread(ctx, id, by); err != nil {
		return attachment.File{}, err
	}
	name = attachment.Name(name)
	mediaType, err := attachment.Check(name, content)
	if err != nil {
		return attachment.File{}, fmt.Errorf("%w: the file was not added: %w", ErrRefused, err)
	}
	return s.Store.AddFile(ctx, by.ID, name, mediaType, content, s.Now())
}

// subject is that of a reply to the last email of a thread, or to the message that they
// answered.
func (s *Service) subject(ctx context.Context, t store.Thread) (string, error) {
	entries, err := s.Store.Entries(ctx, t.ID, shownEntries)
	if err != nil {
		return "", err
	}
	for _, e := range slices.Backward(entries) {
		if e.Kind == store.EntryIn && e.Subject != "" {
			return replyTo(e.Subject), nil
		}
	}
	if t.Title != "" {
		return replyTo(t.Title), nil
	}
	o, err := s.Store.Organisation(ctx)
	return o.Name, err
}

// shownEntries is how much of a thread is read at a time.
const shownEntries = 200

// Answer sends what somebody of the desk writes. It can be taken back by the message
// that it returns.
func (s *Service) Answer(ctx context.Context, id int64, said Said, by access.Principal) (message int64, err error) {
	err = s.do(ctx, id, by, func(t store.Thread) error {
		if err := s.overtaken(ctx, t, said.Seen, by); err != nil {
			return err
		}
		a, err := s.answer(ctx, t, said)
		if err != nil {
			return err
		}
		message, err = s.Sender.SendAnswer(ctx, a, by)
		return err
	})
	return message, err
}

// Weigh says what an answer would come to.
func (s *Service) Weigh(ctx context.Context, id int64, said Said, by access.Principal) (sending.Weighed, error) {
	t, err := s.Thread(ctx, id, by)
	if err != nil {
		return sending.Weighed{}, err
	}
	a, err := s.answer(ctx, t, said)
	if err != nil {
		return sending.Weighed{}, err
	}
	return s.Sender.Weigh(ctx, a, by)
}

// TakeBack takes an answer back that is still held, and returns what was written.
func (s *Service) TakeBack(ctx context.Context, id, message int64, by access.Principal) (e store.Entry, err error) {
	err = s.do(ctx, id, by, func(t store.Thread) error {
		e, err = s.Store.TakeBackAnswer(ctx, t.ID, message)
		return err
	})
	return e, err
}

// Entries are what was said in a thread, the oldest first.
func (s *Service) Entries(ctx context.Context, id int64, by access.Principal) (store.Thread, []store.Entry, error) {
	t, err := s.Thread(ctx, id, by)
	if err != nil {
		return t, nil, err
	}
	list, err := s.Store.Entries(ctx, id, shownEntries)
	return t, list, err
}
