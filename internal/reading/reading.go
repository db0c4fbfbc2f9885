// Package reading lets people outside the desk read copies: it asks them by their own
// channels, shows them a copy behind a personal link, and takes what they say of it.
package reading

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/link"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
)

// Messages are the messages that somebody may see; any other is store.ErrNotFound.
type Messages interface {
	Heading(ctx context.Context, by access.Principal, id int64) (store.Heading, error)
}

// Copies opens copies for accounts; a message that one may not see is store.ErrNotFound.
type Copies interface {
	Open(ctx context.Context, by access.Principal, id int64, language string) (translation.Copy, error)
}

// Sender sends the requests.
type Sender interface {
	Send(ctx context.Context, id, revision int64, checked sending.Checked, by access.Principal) (store.Message, error)
}

// Service asks for readings and takes them.
type Service struct {
	Store    *store.Store
	Messages Messages
	Copies   Copies
	Sender   Sender
	Now      func() time.Time
	// Changed is told which message is read. It must not block.
	Changed func(messageID int64)
}

// ErrUnfit means that something cannot be asked for or said.
var ErrUnfit = errors.New("this cannot be done")

// Limits.
const (
	longestHolds = 30 * 24 * time.Hour
	mostReaders  = 20  // at once
	mostReadings = 100 // of a message
	mostSayings  = 100 // at once
	longRemark   = 2000
)

// Reader is somebody who is asked: a person of the roster, or an account.
type Reader struct {
	Person  roster.PersonID
	Account int64
}

// Asked is a reader who was asked.
type Asked struct {
	store.Reading
	Path    string // of the page, which needs no account
	Problem string // why the request did not leave; the link works all the same
}

// Ask asks readers for a reading of a copy, each by a message of their own with their
// link. Site is where people reach the program, such as “https://lantern.example”.
// Whoever is asked again gets a new link, and the old one works until its own time.
func (s *Service) Ask(
	ctx context.Context, by access.Principal, id int64, language string, readers []Reader, until time.Time, site string,
) ([]Asked, error) {
	c, err := s.Copies.Open(ctx, by, id, language)
	if err != nil {
		return nil, err
	}
	if err := s.mayAsk(ctx, c, readers, until); err != nil {
		return nil, err
	}
	desk, err := s.desk(ctx, by)
	if err != nil {
		return nil, err
	}
	contacts := make([]contact, len(readers))
	for i, r := range readers {
		if contacts[i], err = desk.find(r); err != nil {
			return nil, err
		}
	}
	asked := make([]Asked, len(readers))
	for i, to := range contacts {
		a := Asked{Reading: store.Reading{
			Message: id, Language: c.Language, Person: to.person, Account: to.account, Name: to.name, AskedBy: by.ID,
			AskedAt: s.Now(), Until: until,
		}}
		if asked[i], err = s.ask(ctx, desk, a, to, site); err != nil {
			return asked[:i], err
		}
	}
	s.Changed(id)
	return asked, nil
}

func (s *Service) mayAsk(ctx context.Context, c translation.Copy, readers []Reader, until time.Time) error {
	now := s.Now()
	switch {
	case c.Message.State != store.Draft:
		return fmt.Errorf("%w: the message was sent", ErrUnfit)
	case len(c.Lines) == 0:
		return fmt.Errorf("%w: the message says nothing yet", ErrUnfit)
	case len(readers) == 0 || len(readers) > mostReaders:
		return fmt.Errorf("%w: ask 1 to %d readers at once", ErrUnfit, mostReaders)
	case !until.After(now) || until.Sub(now) > longestHolds:
		return fmt.Errorf("%w: choose a time within the next 30 days until which the link works", ErrUnfit)
	}
	have, err := s.Store.Readings(ctx, c.Message.ID)
	if err == nil && len(have)+len(readers) > mostReadings {
		err = fmt.Errorf("%w: a message has %d readings at most", ErrUnfit, mostReadings)
	}
	return err
}

// ask keeps the reading first: one whose request did not leave has none, its link is
// given by hand, or it is asked for again.
func (s *Service) ask(ctx context.Context, d desk, a Asked, to contact, site string) (Asked, error) {
	var err error
	if a.ID, err = s.Store.AskReading(ctx, a.Reading); err != nil {
		return a, err
	}
	a.Path = path(d.organisation, a.Reading)
	request := requestOf(d.organisation, a.Reading, to, strings.TrimSuffix(site, "/")+a.Path)
	m, err := s.Store.AddDraft(ctx, d.by.ID, request.draft, s.Now())
	if err != nil {
		return a, err
	}
	a.Request = m.ID
	if err := s.Store.SetRequest(ctx, a.ID, m.ID); err != nil {
		return a, err
	}
	if filled := request.filled(d.organisation.Name, s.Now()); len(filled) > 0 {
		err := s.Store.Fill(ctx, m.ID, request.language, d.organisation.Language, d.by.Scope.Pays(), filled)
		if err != nil {
			return a, err
		}
	}
	one := 1
	_, err = s.Sender.Send(ctx, m.ID, m.Revision, sending.Checked{Recipients: &one, Typed: one}, d.by)
	if errors.Is(err, sending.ErrBlocked) || errors.Is(err, sending.ErrChanged) {
		a.Problem, a.Request = strings.TrimPrefix(err.Error(), sending.ErrBlocked.Error()+": "), 0
		err = errors.Join(s.Store.SetRequest(ctx, a.ID, 0), s.Store.DeleteDraft(ctx, m.ID))
	}
	return a, err
}

// Progress is a reading with how far it is.
type Progress struct {
	store.Reading
	Path   string
	Read   int // lines of the message as it is, of which they said something
	Lines  int
	Others int // of those, lines that say otherwise now
}

// List are the readings of a message.
func (s *Service) List(ctx context.Context, by access.Principal, id int64) ([]Progress, error) {
	if _, err := s.Messages.Heading(ctx, by, id); err != nil {
		return nil, err
	}
	readings, err := s.Store.Readings(ctx, id)
	if err != nil || len(readings) == 0 {
		return nil, err
	}
	said, err := s.Store.Sayings(ctx, id)
	if err != nil {
		return nil, err
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, err
	}
	opened := map[string]translation.Copy{}
	list := make([]Progress, len(readings))
	for i, r := range readings {
		c, ok := opened[r.Language]
		if !ok {
			if c, err = s.Copies.Open(ctx, by, id, r.Language); err != nil {
				return nil, err
			}
			opened[r.Language] = c
		}
		if r, err = s.requested(ctx, r); err != nil {
			return nil, err
		}
		list[i] = progressOf(r, c, said)
		list[i].Path = path(o, r)
	}
	return list, nil
}

// requested is a reading without its request if that never left: the program ended
// before it did.
func (s *Service) requested(ctx context.Context, r store.Reading) (store.Reading, error) {
	if r.Request == 0 {
		return r, nil
	}
	m, err := s.Store.Heading(ctx, r.Request)
	if errors.Is(err, store.ErrNotFound) || err == nil && m.State == store.Draft {
		r.Request, err = 0, nil
	}
	return r, err
}

func progressOf(r store.Reading, c translation.Copy, said []store.Said) Progress {
	p := Progress{Reading: r, Lines: len(c.Lines)}
	of := saidIn(r.ID, said)
	for _, l := range c.Lines {
		s, ok := of[l.Key()]
		if !ok {
			continue
		}
		p.Read++
		if l.Target.Differs(s) {
			p.Others++
		}
	}
	return p
}

func saidIn(reading int64, said []store.Said) map[string]copies.Saying {
	of := map[string]copies.Saying{}
	for _, s := range said {
		if s.Reading == reading {
			of[s.Key] = s.Saying
		}
	}
	return of
}

// Withdraw takes a reading back: its link no longer works.
func (s *Service) Withdraw(ctx context.Context, by access.Principal, id, reading int64) error {
	r, err := s.Store.Reading(ctx, reading)
	if err != nil {
		return err
	}
	if r.Message != id {
		return store.ErrNotFound
	}
	if _, err := s.Copies.Open(ctx, by, id, r.Language); err != nil {
		return err
	}
	if err := s.Store.WithdrawReading(ctx, id, reading, s.Now()); err != nil {
		return err
	}
	s.Changed(id)
	return nil
}

// Known are those who could read a copy: the people whose attribute says that they read
// its language for the organisation, within what an account reaches, and the accounts
// that have a mailbox. Set is false while no attribute is chosen for that.
func (s *Service) Known(
	ctx context.Context, by access.Principal, id int64, language string,
) (people []*roster.Person, accounts []store.Account, set bool, err error) {
	if _, err := s.Copies.Open(ctx, by, id, language); err != nil {
		return nil, nil, false, err
	}
	desk, err := s.desk(ctx, by)
	if err != nil {
		return nil, nil, false, err
	}
	for _, a := range desk.accounts {
		if a.Active && strings.Contains(a.Login, "@") {
			accounts = append(accounts, a)
		}
	}
	attribute := desk.organisation.Sending.Reads
	if _, set = desk.roster.Attribute(attribute); !set {
		return nil, accounts, false, nil
	}
	for i := range desk.roster.Len() {
		if p := desk.roster.At(i); !p.Beyond && copies.Reads(p.Value(attribute), language) {
			people = append(people, p)
		}
	}
	return people, accounts, true, nil
}

// Visit is what a reader sees.
type Visit struct {
	store.Reading
	Organisation store.Organisation
	translation.Copy
	Said  map[string]copies.Saying // by them, by the key of the line
	Reads string                   // the language that they read themselves, BCP 47
	Over  bool                     // the message is no longer a draft
}

// Visit opens a reading by its token; link.ErrNotOurs, link.ErrExpired and
// store.ErrNotFound mean that the link does not work.
func (s *Service) Visit(ctx context.Context, token string) (Visit, error) {
	v, _, err := s.visit(ctx, token)
	if err != nil {
		return v, err
	}
	if v.OpenedAt.IsZero() {
		if err := s.Store.OpenReading(ctx, v.Reading.ID, s.Now()); err != nil {
			return v, err
		}
		s.Changed(v.Reading.Message)
	}
	return v, nil
}

func (s *Service) visit(ctx context.Context, token string) (Visit, access.Principal, error) {
	var v Visit
	var asker access.Principal
	var err error
	if v.Organisation, err = s.Store.Organisation(ctx); err != nil {
		return v, asker, err
	}
	id, _, err := link.ReadReading(v.Organisation.Secret, token, s.Now())
	if err != nil {
		return v, asker, err
	}
	if v.Reading, err = s.Store.Reading(ctx, id); err != nil {
		return v, asker, err
	}
	if !v.WithdrawnAt.IsZero() {
		return v, asker, store.ErrNotFound
	}
	account, err := s.Store.AnyAccount(ctx, v.AskedBy) // their account may have ended
	if err != nil {
		return v, asker, err
	}
	asker = account.Principal(access.Inside)
	if v.Copy, err = s.Copies.Open(ctx, asker, v.Reading.Message, v.Reading.Language); err != nil {
		return v, asker, err
	}
	said, err := s.Store.Sayings(ctx, v.Reading.Message)
	if err != nil {
		return v, asker, err
	}
	v.Said, v.Over = saidIn(v.Reading.ID, said), v.Copy.Message.State != store.Draft
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return v, asker, err
	}
	v.Reads = v.Reading.Language
	if i, ok := r.Position(v.Person); ok {
		v.Reads = cmp.Or(r.At(i).Language, v.Reads)
	}
	return v, asker, nil
}

// Say is what a reader says of a line: how it is right, and what they had before them.
type Say struct {
	Key, Seen, Text string
}

// Hear takes what a reader says by their link and returns the copy as it is then, with
// the keys of those lines that are no longer in the message. A message that was sent
// meanwhile is store.ErrConflict.
func (s *Service) Hear(
	ctx context.Context, token string, says []Say, remark string, done bool,
) (v Visit, gone []string, err error) {
	v, asker, err := s.visit(ctx, token)
	if err != nil {
		return v, nil, err
	}
	if len(says) > mostSayings || utf8.RuneCountInString(remark) > longRemark {
		return v, nil, fmt.Errorf(
			"%w: at most %d lines at once, and %d characters of a remark", ErrUnfit, mostSayings, longRemark,
		)
	}
	var heard []store.Heard
	for _, say := range says {
		i := slices.IndexFunc(v.Lines, func(l translation.Line) bool { return l.Key() == say.Key })
		if i < 0 {
			gone = append(gone, say.Key)
			continue
		}
		text := lines.CleanTarget(say.Text)
		if text == "" || utf8.RuneCountInString(text) > lines.LongestTarget {
			return v, nil, fmt.Errorf("%w: a line has 1 to %d characters", ErrUnfit, lines.LongestTarget)
		}
		heard = append(heard, store.Heard{Original: v.Lines[i].Line, Seen: say.Seen, Says: text})
	}
	r := v.Reading
	r.Remark = strings.TrimSpace(remark)
	if err := s.Store.Hear(ctx, r, v.From, asker.Scope.Pays(), heard, done, s.Now()); err != nil {
		return v, gone, err
	}
	s.Changed(r.Message)
	v, _, err = s.visit(ctx, token)
	return v, gone, err
}

// desk is what asking takes: the roster within an account's reach and the settings.
type desk struct {
	by           access.Principal
	roster       *roster.Roster
	organisation store.Organisation
	accounts     []store.Account
}

func (s *Service) desk(ctx context.Context, by access.Principal) (desk, error) {
	d := desk{by: by}
	var err error
	if d.organisation, err = s.Store.Organisation(ctx); err != nil {
		return d, err
	}
	if d.roster, err = s.Store.RosterWithin(ctx, by.Scope); err != nil {
		return d, err
	}
	d.accounts, err = s.Store.Accounts(ctx)
	return d, err
}

// path is where a reader reads; whoever has it speaks as that reader.
func path(o store.Organisation, r store.Reading) string {
	return "/reading/" + link.MakeReading(o.Secret, r.ID, r.Until)
}

// contact is a reader with how they are asked.
type contact struct {
	person   roster.PersonID // 0 for an account
	account  int64           // 0 for a person
	name     string
	language string // that they read themselves, BCP 47
	mailbox  string // of an account
}

func (d desk) find(r Reader) (contact, error) {
	if r.Person != 0 {
		i, ok := d.roster.Position(r.Person)
		if !ok || d.roster.At(i).Beyond {
			return contact{}, store.ErrNotFound
		}
		p := d.roster.At(i)
		return contact{person: p.ID, name: p.Name(), language: p.Language}, nil
	}
	i := slices.IndexFunc(d.accounts, func(a store.Account) bool { return a.ID == r.Account && a.Active })
	if i < 0 {
		return contact{}, store.ErrNotFound
	}
	a := d.accounts[i]
	if !strings.Contains(a.Login, "@") {
		return contact{}, fmt.Errorf("%w: no mailbox of %s is known", ErrUnfit, a.Name)
	}
	return contact{account: a.ID, name: a.Name, mailbox: a.Login}, nil
}
