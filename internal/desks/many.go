package desks

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/job"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
)

// mostChosen is how many people can be chosen for a thread.
const mostChosen = 500

// round is a thread with many, with what is known of whom it is with.
type round struct {
	store.Thread
	desk   desk.Desk
	roster *roster.Roster // the whole
	kept   []store.ThreadPerson
}

// round reads whom a thread with many is with.
func (s *Service) round(ctx context.Context, t store.Thread) (round, error) {
	v := round{Thread: t}
	var err error
	if v.roster, err = s.Store.Roster(ctx); err != nil {
		return v, err
	}
	all, err := s.Store.Desks(ctx)
	if err != nil {
		return v, err
	}
	if at := slices.IndexFunc(all, func(d desk.Desk) bool { return d.ID == t.Desk }); at >= 0 {
		v.desk = all[at]
	}
	v.kept, err = s.Store.PeopleOfThread(ctx, t.ID)
	return v, err
}

// who is whom it is with.
func (v round) who() desk.Round {
	who := desk.Round{With: v.With, Group: v.Group, Unit: v.Unit}
	for _, p := range v.kept {
		if p.Chosen {
			who.People = append(who.People, p.Person)
		}
		if !p.Left.IsZero() {
			who.Gone = append(who.Gone, p.Person)
		}
	}
	return who
}

func (v round) left(p roster.PersonID) bool {
	return slices.ContainsFunc(v.kept, func(k store.ThreadPerson) bool { return k.Person == p && !k.Left.IsZero() })
}

// told are those who know that all in it see what is said.
func (v round) told() []roster.PersonID {
	var list []roster.PersonID
	for _, p := range v.kept {
		if !p.Told.IsZero() && p.Left.IsZero() {
			list = append(list, p.Person)
		}
	}
	return list
}

// lastTold is when somebody was told last.
func (v round) lastTold() (last time.Time) {
	for _, p := range v.kept {
		if p.Told.After(last) {
			last = p.Told
		}
	}
	return last
}

// ended reports whether nothing more is said in it, since its job is closed or what it is
// with is gone.
func (v round) ended() bool {
	if v.With != desk.OfJob && v.With != desk.OfGroup {
		return v.With == desk.Area && v.Unit == 0
	}
	g, there := v.roster.Group(v.Group)
	return !there || v.With == desk.OfJob && g.Closed != nil
}

// sends is a text to everybody in the thread.
func (v round) sends(text string, said []store.Copied) sending.Round {
	return sending.Round{
		Thread: v.ID, Audience: v.who().Audience(v.desk, v.roster), Subject: v.Name, Text: text, Copies: said,
		AtOnce: v.With == desk.OfJob,
	}
}

// Many is with whom a thread is begun.
type Many struct {
	With   desk.With
	People []roster.PersonID
	Group  roster.GroupID
	Unit   roster.UnitID
	Name   string // of one with chosen people; "" to call it after them
}

// OpenMany begins a thread with many at a desk, or finds that with the same group, area or
// job.
func (s *Service) OpenMany(ctx context.Context, id desk.ID, m Many, by access.Principal) (int64, error) {
	d, err := s.Desk(ctx, id, by)
	if err != nil {
		return 0, err
	}
	r, err := s.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return 0, err
	}
	t := store.Thread{Desk: id, With: m.With, Group: m.Group, Unit: m.Unit}
	switch m.With {
	case desk.Chosen:
		if err := mayChoose(r, m.People); err != nil {
			return 0, err
		}
		t.Name, t.Named = named(r, m.Name, m.People)
	case desk.OfGroup, desk.OfJob:
		g, there := r.Group(m.Group)
		if !there {
			return 0, fmt.Errorf("%w: there is no such group", ErrRefused)
		}
		t.Name, t.With = g.Name, desk.OfGroup
		if g.Kind == roster.Job {
			t.With = desk.OfJob
		}
	case desk.Area:
		if t.Name = r.UnitName(m.Unit); t.Name == "" {
			return 0, fmt.Errorf("%w: there is no such area", ErrRefused)
		}
	case desk.Everybody:
		t.Name = "Everybody of " + d.Name
	default:
		return 0, fmt.Errorf("%w: say with whom", ErrRefused)
	}
	thread, err := s.Store.OpenMany(ctx, t, m.People, s.Now())
	if err == nil {
		s.Changed(id)
	}
	return thread, err
}

// mayChoose refuses people who cannot be chosen for a thread.
func mayChoose(r *roster.Roster, people []roster.PersonID) error {
	switch {
	case len(people) == 0:
		return fmt.Errorf("%w: choose at least one person", ErrRefused)
	case len(people) > mostChosen:
		return fmt.Errorf("%w: at most %d people are chosen one by one; make a group of them", ErrRefused, mostChosen)
	}
	for _, id := range people {
		if r.Person(id) == nil || id <= 0 {
			return fmt.Errorf("%w: somebody who was chosen is not on the roster", ErrRefused)
		}
	}
	return nil
}

// longestThreadName is how long a name of a thread can be, in characters.
const longestThreadName = 120

// named is how a thread with chosen people is called.
func named(r *roster.Roster, name string, people []roster.PersonID) (called string, given bool) {
	if name = strings.Join(strings.Fields(name), " "); name != "" {
		if runes := []rune(name); len(runes) > longestThreadName {
			name = string(runes[:longestThreadName])
		}
		return name, true
	}
	names := make([]string, 0, len(people))
	for _, id := range people {
		if p := r.Person(id); p != nil {
			names = append(names, p.Name())
		}
	}
	return desk.Called(names), false
}

// chosen is a thread with chosen people, or a refusal.
func (s *Service) chosen(ctx context.Context, t store.Thread) (round, error) {
	if t.With != desk.Chosen {
		return round{}, fmt.Errorf("%w: who is in this thread follows the roster", ErrRefused)
	}
	return s.round(ctx, t)
}

// Rename gives a thread with chosen people a name; "" calls it after them again.
func (s *Service) Rename(ctx context.Context, id int64, name string, by access.Principal) error {
	return s.do(ctx, id, by, func(t store.Thread) error {
		v, err := s.chosen(ctx, t)
		if err != nil {
			return err
		}
		called, given := named(v.roster, name, v.who().People)
		return s.Store.RenameThread(ctx, id, called, given)
	})
}

// Choose says who is in a thread with chosen people.
func (s *Service) Choose(ctx context.Context, id int64, people []roster.PersonID, by access.Principal) error {
	within, err := s.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return err
	}
	return s.do(ctx, id, by, func(t store.Thread) error {
		v, err := s.chosen(ctx, t)
		if err != nil {
			return err
		}
		for _, p := range v.who().People { // whom the account does not see stays
			if within.Person(p) == nil && v.roster.Person(p) != nil {
				people = append(people, p)
			}
		}
		if err := mayChoose(v.roster, people); err != nil {
			return err
		}
		name := ""
		if t.Named {
			name = t.Name
		}
		called, given := named(v.roster, name, people)
		return s.Store.ChooseForThread(ctx, id, people, called, given)
	})
}

// Delete removes a thread with chosen people, with all that was said in it.
func (s *Service) Delete(ctx context.Context, id int64, by access.Principal) error {
	return s.do(ctx, id, by, func(t store.Thread) error {
		if _, err := s.chosen(ctx, t); err != nil {
			return err
		}
		return s.Store.DropThread(ctx, id)
	})
}

// RoundCopy is what readers of a language get of a round.
type RoundCopy struct {
	translation.Spoken
	People int
	Speaks string // the language's name in English
	Note   string // why there is none; "" when there is
}

// Weighed is what a word to everybody in a thread comes to.
type Weighed struct {
	Worked *sending.Worked
	Copies []RoundCopy
}

// open is a thread with many in which an account may write.
func (s *Service) open(ctx context.Context, t store.Thread, by access.Principal) (round, error) {
	if !t.With.Many() {
		return round{}, fmt.Errorf("%w: this thread is with one", ErrRefused)
	}
	if !by.May(access.Write) {
		return round{}, fmt.Errorf("%w: your account may not write to people", ErrRefused)
	}
	v, err := s.round(ctx, t)
	if err == nil && v.ended() {
		err = fmt.Errorf("%w: this thread has ended; nothing was sent", ErrRefused)
	}
	return v, err
}

// WeighAll says what a text to everybody in a thread would come to, and in which languages
// they get it.
func (s *Service) WeighAll(
	ctx context.Context, id int64, words ToAll, naming bool, by access.Principal,
) (w Weighed, err error) {
	t, err := s.Thread(ctx, id, by)
	if err != nil {
		return w, err
	}
	v, err := s.open(ctx, t, by)
	if err != nil {
		return w, err
	}
	r := v.sends(strings.TrimSpace(words.Text), nil)
	r.Files = words.Files
	if w.Worked, err = s.Sender.WeighRound(ctx, r, by); err != nil {
		return w, err
	}
	if w.Copies, err = s.copiesOf(ctx, w.Worked, r.Text, naming); err != nil {
		return w, err
	}
	r.Copies = said(w.Copies)
	w.Worked, err = s.Sender.WeighRound(ctx, r, by)
	return w, err
}

// copiesOf says a text in the languages of those who get it.
func (s *Service) copiesOf(ctx context.Context, w *sending.Worked, text string, naming bool) ([]RoundCopy, error) {
	var list []RoundCopy
	for _, reads := range w.Plan.OtherReaders(w.Roster) {
		c := RoundCopy{People: reads.People, Speaks: roster.LanguageName(reads.Language)}
		c.Language = reads.Language
		if s.Reader == nil || text == "" {
			c.Note = "No translation service is set up."
			list = append(list, c)
			continue
		}
		spoken, err := s.Reader.Say(ctx, w.Plan.Settings.Language, reads.Language, text, naming)
		if err != nil {
			return nil, err
		}
		if c.Spoken = spoken; spoken.Text == "" {
			c.Note = why(spoken)
		}
		list = append(list, c)
	}
	return list, nil
}

// said are the copies that there are.
func said(list []RoundCopy) []store.Copied {
	var out []store.Copied
	for _, c := range list {
		if c.Text != "" {
			out = append(out, store.Copied{Language: c.Language, Text: c.Text, Checked: c.Checked})
		}
	}
	return out
}

// ToAll is what somebody of a desk writes to everybody in a thread.
type ToAll struct {
	Text   string
	Copies []store.Copied // as which it leaves to readers of other languages; others get it as it is
	Files  []attachment.File
	Seen   int64 // the last entry that they saw, 0 for whatever there is
	// Interrupts lets pushes of it stay until they are touched.
	Interrupts bool
}

// SayToAll sends what somebody of the desk writes to everybody in a thread. It can be taken
// back by the message that it returns.
func (s *Service) SayToAll(ctx context.Context, id int64, words ToAll, by access.Principal) (message int64, err error) {
	text := strings.TrimSpace(words.Text)
	if text == "" {
		return 0, fmt.Errorf("%w: an answer needs words", ErrRefused)
	}
	err = s.do(ctx, id, by, func(t store.Thread) error {
		v, err := s.open(ctx, t, by)
		if err != nil {
			return err
		}
		if err := s.overtaken(ctx, t, words.Seen, by); err != nil {
			return err
		}
		if t.Shared {
			if v, err = s.tellNew(ctx, v); err != nil {
				return err
			}
		}
		if err := s.areHere(ctx, words.Files); err != nil {
			return err
		}
		r := v.sends(text, words.Copies)
		r.Interrupts, r.Files = words.Interrupts, words.Files
		message, err = s.Sender.SendRound(ctx, r, by)
		return err
	})
	return message, err
}

// InThread is somebody in a thread with many, as an account sees them.
type InThread struct {
	Person *roster.Person
	Part   job.Part       // in a job
	By     roster.Channel // by which the next word would reach them; "" when it would not
	Reason plan.Reason    // why not
	Told   bool           // that all see what is said
	Left   bool           // by the word for it
}

// People are those in a thread with many, as an account sees them, and how many more
// there are whom it does not see.
func (s *Service) People(ctx context.Context, v round, by access.Principal) (list []InThread, beyond int, err error) {
	within, err := s.Store.RosterWithin(ctx, by.Scope)
	if err != nil {
		return nil, 0, err
	}
	w, err := s.Sender.WeighRound(ctx, v.sends("…", nil), by)
	if err != nil {
		return nil, 0, err
	}
	parts, err := s.Store.JobParts(ctx, v.Group)
	if err != nil {
		return nil, 0, err
	}
	told := v.told()
	add := func(at int, channel roster.Channel, reason plan.Reason) {
		p := within.Person(w.Roster.At(at).ID)
		if p == nil || !by.May(access.SeePeople) {
			beyond++
			return
		}
		one := InThread{Person: p, By: channel, Reason: reason, Told: slices.Contains(told, p.ID)}
		if v.With == desk.OfJob {
			one.Part = parts.Of(p.ID)
		}
		list = append(list, one)
	}
	for _, r := range w.Plan.Recipients {
		channel := roster.Channel("")
		if len(r.Deliveries) > 0 {
			channel = w.Plan.Deliveries[r.Deliveries[0]].Channel
		}
		add(r.Person, channel, "")
	}
	for _, l := range w.Plan.LeftOut {
		add(l.Person, "", l.Reason)
	}
	for _, k := range v.kept {
		if p := within.Person(k.Person); p != nil && !k.Left.IsZero() {
			list = append(list, InThread{Person: p, Left: true})
		}
	}
	return list, beyond, nil
}

// Reached are the recipients of a round and whom it left out.
func (s *Service) Reached(
	ctx context.Context, id, message int64, by access.Principal,
) (list []store.RecipientRecord, left []store.LeftOutRecord, err error) {
	_, entries, err := s.Entries(ctx, id, by)
	if err != nil {
		return nil, nil, err
	}
	ours := func(e store.Entry) bool {
		return e.Kind == store.EntryOut && e.Message == message || e.Passed == message
	}
	if !slices.ContainsFunc(entries, ours) {
		return nil, nil, ErrNotHere
	}
	m, err := s.Store.Heading(ctx, message)
	if err != nil {
		return nil, nil, err
	}
	if list, _, err = s.Store.Recipients(ctx, m, store.Wanted{Count: mostReached}); err != nil {
		return nil, nil, err
	}
	left, _, err = s.Store.LeftOut(ctx, message)
	if err != nil || !by.May(access.SeePeople) {
		return nil, nil, errors.Join(err, ErrNotHere)
	}
	return list, left, nil
}

// mostReached is how many recipients of a round are listed.
const mostReached = 500
