package desks

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

// Reporter takes a report about a delivery.
type Reporter func(context.Context, delivery.Report) error

// answersFor is how long something that left can be answered without its key.
const answersFor = 30 * 24 * time.Hour

// taken is something that came in, with what is known of it.
type taken struct {
	incoming.Item
	roster  *roster.Roster
	desks   []desk.Desk
	answers store.Answered // zero for nothing
	person  *roster.Person // nil of somebody who is not known, or not for sure
	files   []attachment.File
	many    round // the thread with many that it answers; zero for none
	word    incoming.Word
	reply   reply
}

// Take keeps what came in, in the thread where it belongs, and does what follows from
// it. All of that can be done again: what came twice, or was cut off by the end of the
// program, is done once.
func (s *Service) Take(ctx context.Context, item incoming.Item) error {
	if err := s.isOurs(ctx, item); err != nil {
		return err
	}
	if done, err := s.fromPhone(ctx, item); done || err != nil {
		return err
	}
	t, err := s.look(ctx, item)
	if err != nil {
		return fmt.Errorf("finding out about what came from %s: %w", item.From, err)
	}
	if t.files, err = s.keepFiles(ctx, item); err != nil {
		return err
	}
	in := s.comesIn(t)
	thread, err := s.Store.TakeIn(ctx, in)
	if err != nil {
		return fmt.Errorf("keeping what came from %s: %w", item.From, err)
	}
	if err := s.follow(ctx, t, thread); err != nil {
		return err
	}
	s.Changed(cmp.Or(t.many.Desk, in.Desk))
	return nil
}

// isOurs refuses what was sent to a number that is none of ours. Who names no number has
// those of the gateway, and nobody here knows them.
func (s *Service) isOurs(ctx context.Context, item incoming.Item) error {
	if item.To == "" || item.Via != delivery.ViaGateway {
		return nil
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil || o.NumberFrom == "" || o.NumberFrom == item.To {
		return err
	}
	r, err := s.Store.Roster(ctx)
	if err != nil || r.HasNumber(item.To) { // archived ones too: answers come late
		return err
	}
	wrote, err := s.Store.SentFrom(ctx, item.To, item.From)
	if err != nil || wrote {
		return err
	}
	s.Log.Warn("refused what was sent to a number that is none of ours", "channel", item.Channel)
	return incoming.ErrNotOurs
}

// look finds out who wrote, what they answer, and what they mean.
func (s *Service) look(ctx context.Context, item incoming.Item) (taken, error) {
	t := taken{Item: item}
	var err error
	if t.roster, err = s.Store.Roster(ctx); err != nil {
		return t, err
	}
	if t.desks, err = s.Store.Desks(ctx); err != nil {
		return t, err
	}
	if t.answers, err = s.answered(ctx, item); err != nil {
		return t, err
	}
	if t.person, err = s.whoWrote(ctx, t); err != nil {
		return t, err
	}
	if err := s.inMany(ctx, &t); err != nil {
		return t, err
	}
	if !item.Automatic {
		if t.word, err = s.wordOf(ctx, t); err != nil {
			return t, err
		}
	}
	if t.word == "" && !item.Automatic {
		t.reply, err = s.reads(ctx, t)
	}
	return t, err
}

// whoWrote is the person who wrote an item; nil when nobody can tell.
func (s *Service) whoWrote(ctx context.Context, t taken) (*roster.Person, error) {
	if t.Person != 0 {
		return t.roster.Person(t.Person), nil
	}
	writes, err := s.Store.WritesFrom(ctx, t.From)
	return who(t.roster, t.From, t.answers.To, writes), err
}

// inMany finds the thread with many that an item answers. Whoever left that thread, and
// whoever writes after it ended, writes to the desk alone.
func (s *Service) inMany(ctx context.Context, t *taken) error {
	if t.answers.Thread == 0 {
		return nil
	}
	thread, err := s.Store.Thread(ctx, t.answers.Thread)
	if errors.Is(err, store.ErrNotFound) {
		t.answers.Thread = 0
		return nil
	}
	if err != nil || !thread.With.Many() {
		return err
	}
	if t.many, err = s.round(ctx, thread); err != nil {
		return err
	}
	if t.many.ended() || t.person != nil && t.many.left(t.person.ID) {
		t.answers.Thread, t.many = 0, round{}
	}
	return nil
}

// wordOf is what an item means that is a single word. The word for leaving means
// something in a thread in which all see what is said; the others are for texts.
func (s *Service) wordOf(ctx context.Context, t taken) (incoming.Word, error) {
	languages, err := s.Store.LanguagesRead(ctx)
	if err != nil {
		return "", err
	}
	word := incoming.WordOf(t.Text, languages)
	if word == incoming.Leave {
		if t.many.Shared && t.person != nil {
			return word, nil
		}
		return "", nil
	}
	if t.Channel != roster.Text {
		return "", nil
	}
	return word, nil
}

// answered is the delivery that an item answers; the zero value is none.
func (s *Service) answered(ctx context.Context, item incoming.Item) (a store.Answered, err error) {
	if item.Delivery != "" {
		a, err = s.Store.Answers(ctx, item.Delivery)
	} else {
		a, err = s.Store.LastAnswered(ctx, item.Channel, item.From, s.Now().Add(-answersFor))
	}
	if errors.Is(err, store.ErrNotFound) {
		return store.Answered{}, nil
	}
	return a, err
}

// who is the person who writes from an address: the only one who has it, one of the
// recipients of what they answer, or who was chosen for it. It is nil when nobody can
// tell.
func who(r *roster.Roster, address string, to []roster.PersonID, chosen roster.PersonID) *roster.Person {
	var all []*roster.Person
	for _, i := range r.Holders(address) {
		if p := r.At(i); p.Status != roster.Left && !p.Stranger() {
			all = append(all, p)
		}
	}
	if adults := slices.DeleteFunc(slices.Clone(all), func(p *roster.Person) bool {
		return slices.Contains(p.Roles, roster.Dependent)
	}); len(adults) > 0 {
		all = adults
	}
	if at := slices.IndexFunc(all, func(p *roster.Person) bool { return p.ID == chosen }); at >= 0 {
		return all[at]
	}
	if p := r.Person(chosen); len(all) == 0 && p != nil && p.Status != roster.Left {
		return p // nobody has the address on the roster, and somebody said who it is
	}
	meant := slices.DeleteFunc(slices.Clone(all), func(p *roster.Person) bool { return !slices.Contains(to, p.ID) })
	switch {
	case len(meant) == 1:
		return meant[0]
	case len(all) == 1:
		return all[0]
	}
	return nil
}

func (s *Service) keepFiles(ctx context.Context, item incoming.Item) ([]attachment.File, error) {
	var files []attachment.File
	for _, f := range item.Files {
		kept, err := s.Store.AddFile(ctx, 0, f.Name, f.Type, f.Content, s.Now())
		if err != nil {
			return nil, err
		}
		files = append(files, kept)
	}
	return files, nil
}

// comesIn is what is kept, and where it belongs.
func (s *Service) comesIn(t taken) store.ComeIn {
	c := store.ComeIn{
		Entry: store.Entry{
			Kind: store.EntryIn, At: t.At, Channel: t.Channel, Address: t.From, Name: t.calls(), Subject: t.Subject,
			Said: t.Text, Folded: t.Folded, Files: t.files, Dropped: t.Dropped, Message: t.answers.Message, Source: t.Key,
		},
		Thread: t.answers.Thread, Many: t.many.ID != 0, Called: t.From, Waits: true,
	}
	switch {
	case t.word != "":
		c.Kind, c.Waits = store.EntryWord, false
	case t.Automatic:
		c.Kind, c.Waits = store.EntryAutomatic, false
	}
	if t.reply.Number > 0 {
		c.Message, c.Waits = t.reply.to.Message, t.reply.attended()
		c.Copy = t.reply.read()
	}
	meant := desk.Meant{Desk: t.answers.Desk, Groups: t.answers.Groups, Unit: t.answers.Unit}
	if t.person != nil {
		c.Person, c.Called = t.person.ID, t.person.Name()
		c.Entry.Person = t.person.ID
		if t.answers.ID == 0 {
			meant.Unit = t.person.Unit
		}
	}
	c.Any = t.answers.ID == 0
	c.Desk = desk.Choose(t.desks, meant, t.roster)
	return c
}

// by is the way by which something came.
func (t taken) by() string {
	if t.Channel == "" {
		return "on their page"
	}
	return "by " + string(t.Channel)
}

// calls is how the writer is called: by the roster, else by themselves.
func (t taken) calls() string {
	if t.person != nil {
		return t.person.Name()
	}
	if t.Name != "" {
		return t.Name
	}
	return t.From
}

// follow does what follows from something that came in.
func (s *Service) follow(ctx context.Context, t taken, thread int64) error {
	switch {
	case t.word != "":
		return s.obey(ctx, t, thread)
	case t.Automatic:
		return nil
	case t.reply.Number > 0:
		if err := s.counts(ctx, t); err != nil {
			return err
		}
	}
	if err := s.reached(ctx, t); err != nil {
		return err
	}
	if t.many.Shared && t.reply.Number == 0 {
		if err := s.passOn(ctx, t, thread); err != nil {
			return err
		}
	}
	if t.reply.Number > 0 && !t.reply.attended() {
		return nil // there is nothing to say
	}
	return s.outside(ctx, t, thread)
}

// reached reports of the delivery that something answers that it was. A question is only
// answered by one of its answers, and by whoever gave it.
func (s *Service) reached(ctx context.Context, t taken) error {
	a, state := t.answers, delivery.Answered
	if t.reply.Number > 0 {
		a = t.reply.to
	}
	if a.Key == "" || a.Leaving {
		return nil // what is just being handed over may not have left, if the program ends
	}
	if len(a.Choices) > 0 && (t.reply.Number == 0 || len(a.To) > 1) {
		state = delivery.Opened
	}
	err := s.Report(ctx, delivery.Report{
		Via: cmp.Or(t.Via, delivery.ViaOf(a.Channel)), DeliveryKey: a.Key, Key: "answer " + shortened(t.Key), State: state,
		Detail: "answered " + t.by(), OccurredAt: t.At,
	})
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	return err
}

// shortened is a key that has room for a word before it.
func shortened(key string) string { return key[:min(len(key), delivery.LongestKey-10)] }

// obey stops texts to a number, lets them go there again, or says who we are. Each is
// confirmed once.
func (s *Service) obey(ctx context.Context, t taken, thread int64) error {
	said := map[incoming.Word]phrase.Key{
		incoming.Stop: "texts stopped", incoming.Start: "texts started", incoming.Help: "texts help",
		incoming.Leave: "thread left",
	}
	source := "says " + t.Key
	var err error
	switch t.word {
	case incoming.Stop:
		var since time.Time
		since, err = s.Store.SetStop(ctx, roster.Text, t.From, t.Text, s.Now())
		source = fmt.Sprintf("says stopped %s %d", t.From, since.UnixMilli())
	case incoming.Start:
		_, err = s.Store.LiftStop(ctx, roster.Text, t.From)
	case incoming.Leave:
		err = s.Store.LeaveThreadFor(ctx, thread, t.person.ID, s.Now())
		source = fmt.Sprintf("says left %d %d", thread, t.person.ID)
	}
	if err != nil {
		return err
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	language := o.Language
	if t.person != nil && t.person.Language != "" {
		language = t.person.Language
	}
	words := phrase.In(language)
	return s.sayOnce(ctx, t, thread, source, words.Tag, words.Say(
		said[t.word], "organisation", o.Name, "thread", t.many.Name,
	), store.Copied{})
}

// outside answers, once for each thread and day, what comes while nobody sits at the desk.
func (s *Service) outside(ctx context.Context, t taken, thread int64) error {
	if t.Channel != roster.Text && t.Channel != roster.Email {
		return nil
	}
	kept, err := s.Store.Thread(ctx, thread)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(t.desks, func(d desk.Desk) bool { return d.ID == kept.Desk })
	if at < 0 || strings.TrimSpace(t.desks[at].Outside) == "" {
		return nil
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		return err
	}
	now := s.Now().In(zone)
	if t.desks[at].Open(now) {
		return nil
	}
	source := fmt.Sprintf("outside %d %s", thread, now.Format(time.DateOnly))
	if kept.With.Many() {
		source += " " + t.From
	}
	words := t.desks[at].Outside
	return s.sayOnce(ctx, t, thread, source, o.Language, words, s.inTheirs(ctx, t, o.Language, words))
}

// inTheirs is a text in the language of whoever wrote; none when that is ours, or when it
// cannot be said whole.
func (s *Service) inTheirs(ctx context.Context, t taken, ours, text string) store.Copied {
	if s.Reader == nil || t.person == nil || t.person.Language == "" || copies.SameLanguage(ours, t.person.Language) {
		return store.Copied{}
	}
	spoken, err := s.Reader.Say(ctx, ours, t.person.Language, text, false)
	if err != nil {
		s.Log.Warn("what is said outside the hours could not be translated", "error", err)
		return store.Copied{}
	}
	if spoken.Text == "" {
		return store.Copied{}
	}
	return store.Copied{Language: spoken.Language, Text: spoken.Text, Checked: spoken.Checked}
}

// sayOnce answers by itself, under a source by which it is known when it was said before.
// What was written on a personal page is not answered so: the page shows what became of it.
func (s *Service) sayOnce(
	ctx context.Context, t taken, thread int64, source, language, text string, said store.Copied,
) error {
	if t.Channel == "" {
		return nil
	}
	by, err := s.speaker(ctx)
	if err != nil {
		return err
	}
	_, err = s.Sender.SendAnswer(ctx, sending.Answer{
		Thread: thread, Channel: t.Channel, Address: t.From, Language: language, Subject: replyTo(t.Subject), Text: text,
		Copy: said, Source: source,
	}, by)
	if errors.Is(err, store.ErrConflict) {
		return nil
	}
	if errors.Is(err, sending.ErrBlocked) {
		s.Log.Warn("nothing could be answered", "thread", thread, "error", err)
		return nil
	}
	return err
}

// speaker is the account on whose behalf the program answers by itself: the first one.
func (s *Service) speaker(ctx context.Context) (access.Principal, error) {
	accounts, err := s.Store.Accounts(ctx)
	if err != nil {
		return access.Principal{}, err
	}
	if len(accounts) == 0 {
		return access.Principal{}, errors.New("there is no account to answer for")
	}
	first := slices.MinFunc(accounts, func(a, b store.Account) int { return int(a.ID - b.ID) })
	by := first.Principal(access.Inside)
	by.Scope = roster.Scope{Whole: true}
	return by, nil
}

// replyTo is the subject of a reply (RFC 5322 §3.6.5).
func replyTo(subject string) string {
	subject = strings.TrimSpace(subject)
	if subject == "" || strings.HasPrefix(strings.ToLower(subject), "re:") {
		return subject
	}
	return "Re: " + subject
}
