// Package sending prepares and sends messages: it brings the roster, the
// organisation's settings and a draft together into a plan, and puts a plan
// on hold.
package sending

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/job"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/holiday"
	"upperlantern/internal/store"
	"upperlantern/internal/wording"
)

// Messages are the messages that somebody may see; any other is store.ErrNotFound.
type Messages interface {
	Authors(ctx context.Context, by access.Principal) ([]int64, error)
	Message(ctx context.Context, by access.Principal, id int64) (store.Message, error)
	Heading(ctx context.Context, by access.Principal, id int64) (store.Heading, error)
}

// Service prepares and sends messages for accounts.
type Service struct {
	Store    *store.Store
	Messages Messages
	Now      func() time.Time
	// Off are the channels that nothing carries; nil is none.
	Off func() []roster.Channel
	// Held is told when something was put on hold, or stopped.
	Held func(messageID int64)
	// Tell writes to an account outside of the program; nil tells nobody.
	Tell func(ctx context.Context, account store.Account, subject, body string)
	// Recall takes back what is about to be handed over of a stopped message, and
	// returns how many deliveries are being handed over all the same.
	Recall func(ctx context.Context, messageID int64) int
	// TakeBack takes back what is about to be handed over of a paused message.
	TakeBack func(messageID int64)

	examined examined
}

// Worked is a draft that was worked out.
type Worked struct {
	Roster       *roster.Roster
	Organisation store.Organisation
	Plan         *plan.Plan
	Summary      plan.Summary
	Desks        []desk.Desk // of the organisation
}

// AnswersTo is the desk to which answers to the message come; 0 while there is none.
func (w *Worked) AnswersTo() desk.ID {
	d := w.Plan.Draft
	m := desk.Meant{Desk: desk.ID(d.Desk), Unit: d.Audience.Writing(w.Roster, w.Plan.Settings.Reach)}
	for _, p := range d.Audience.Parts {
		if p.Kind == audience.ByGroup && !p.LeaveOut {
			m.Groups = append(m.Groups, p.Group)
		}
	}
	return desk.Choose(w.Desks, m, w.Roster)
}

// ErrBlocked means that a message cannot be sent as it is.
var ErrBlocked = errors.New("cannot be sent yet")

// ErrUnfit means that a draft is not as drafts are.
var ErrUnfit = errors.New("this cannot be worked out")

// Plan works out a draft for a sender, within what their account reaches. The copies
// are those of the message with an id; 0 has none.
func (d *Service) Plan(
	ctx context.Context, id int64, draft message.Draft, sender access.Principal,
) (*Worked, error) {
	if err := draft.Validate(); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrUnfit, err)
	}
	if id != 0 {
		if _, err := d.Messages.Heading(ctx, sender, id); err != nil {
			return nil, err
		}
	}
	return d.plan(ctx, id, draft, sender)
}

func (d *Service) plan(ctx context.Context, id int64, draft message.Draft, sender access.Principal) (*Worked, error) {
	return d.planWith(ctx, id, draft, sender, func(*plan.Settings) error { return nil })
}

// planWith works out a draft with settings that are changed before.
func (d *Service) planWith(
	ctx context.Context, id int64, draft message.Draft, sender access.Principal, change func(*plan.Settings) error,
) (*Worked, error) {
	if f := draft.Follows; f != nil {
		if _, err := d.Messages.Heading(ctx, sender, f.Message); err != nil || f.Message == id {
			return nil, fmt.Errorf("%w: it follows a message that is not there", ErrUnfit)
		}
	}
	o, err := d.Store.Organisation(ctx)
	if err != nil {
		return nil, err
	}
	everybody, err := d.Store.Roster(ctx)
	if err != nil {
		return nil, err
	}
	r, err := d.within(ctx, draft, sender.Scope, everybody)
	if err != nil {
		return nil, err
	}
	fixed := d.fixed(o, draft, sender, r, everybody)
	desks, err := d.Store.Desks(ctx)
	if err != nil {
		return nil, err
	}
	fixed.Desks = len(desks) > 0
	s, err := d.settings(ctx, id, o, fixed, draft, everybody)
	if err != nil {
		return nil, err
	}
	if err := d.hideTitles(ctx, s.Near, sender); err != nil {
		return nil, err
	}
	if err := change(&s); err != nil {
		return nil, err
	}
	w := work(r, o, draft, s)
	w.Desks = desks
	return w, nil
}

// PlanSent works out a message that was sent as it would be now, with what was
// fixed when it was sent. It is not summed up.
func (d *Service) PlanSent(ctx context.Context, m store.Message) (*Worked, error) {
	return d.planSent(ctx, m, time.Time{})
}

// planSent is PlanSent for a message that leaves at an instant; the zero time is after
// a hold from now.
func (d *Service) planSent(ctx context.Context, m store.Message, leaves time.Time) (*Worked, error) {
	fixed, err := d.SentWith(ctx, m)
	if err != nil {
		return nil, err
	}
	o, err := d.Store.Organisation(ctx)
	if err != nil {
		return nil, err
	}
	everybody, err := d.Store.Roster(ctx)
	if err != nil {
		return nil, err
	}
	r, err := d.within(ctx, m.Draft, fixed.Reach, everybody)
	if err != nil {
		return nil, err
	}
	s, err := d.settings(ctx, m.ID, o, fixed, m.Draft, everybody)
	if err != nil {
		return nil, err
	}
	if !leaves.IsZero() {
		s.Leaves = leaves
	}
	return &Worked{Roster: r, Organisation: o, Plan: plan.Make(r, m.Draft, s)}, nil
}

// SentWith is what was fixed when a message was sent; today's settings if an
// earlier version of the program sent it.
func (d *Service) SentWith(ctx context.Context, m store.Message) (plan.Fixed, error) {
	fixed, err := d.Store.Sending(ctx, m.ID)
	if !errors.Is(err, store.ErrNotFound) {
		return fixed, err
	}
	o, err := d.Store.Organisation(ctx)
	if err != nil {
		return fixed, err
	}
	everybody, err := d.Store.Roster(ctx)
	if err != nil {
		return fixed, err
	}
	sender, err := d.Store.AnyAccount(ctx, cmp.Or(m.SenderID, m.AuthorID)) // their account may have ended
	if err != nil {
		return fixed, err
	}
	r, err := d.within(ctx, m.Draft, sender.Scope, everybody)
	if err != nil {
		return fixed, err
	}
	return d.fixed(o, m.Draft, sender.Principal(access.Inside), r, everybody), nil
}

// fixed is what a sender sends a draft with. R is the roster within their reach.
func (d *Service) fixed(
	o store.Organisation, draft message.Draft, sender access.Principal, r, everybody *roster.Roster,
) plan.Fixed {
	f := o.Fixed(sender)
	if d.Off != nil {
		f.Off = d.Off()
	}
	f.Signature = everybody.SignatureOf(draft.Audience.Writing(r, sender.Scope), o.Sending.Signature)
	return f
}

func work(r *roster.Roster, o store.Organisation, draft message.Draft, s plan.Settings) *Worked {
	p := plan.Make(r, draft, s)
	return &Worked{Roster: r, Organisation: o, Plan: p, Summary: p.Summarise(r)}
}

// within is the roster as a scope sees it, with the strangers of a draft's audience.
func (d *Service) within(
	ctx context.Context, draft message.Draft, scope roster.Scope, everybody *roster.Roster,
) (*roster.Roster, error) {
	r, err := d.Store.RosterWithin(ctx, scope)
	if err != nil {
		return nil, err
	}
	return audience.WithStrangers(r, everybody, draft.Audience), nil
}

// settings are what a plan is made with besides the roster.
func (d *Service) settings(
	ctx context.Context, id int64, o store.Organisation, fixed plan.Fixed, draft message.Draft, everybody *roster.Roster,
) (plan.Settings, error) {
	now := d.Now()
	s := plan.Settings{Fixed: fixed, Leaves: now.Add(o.Hold), Zone: zones(fixed.TimeZone)}
	s.Holiday = func(day time.Time) string { return holiday.On(fixed.Region, day) }
	s.Budget = fixed.Sending.BudgetOf(fixed.Reach.Pays())
	var err error
	if s.Budget > 0 {
		local := now.In(s.Zone(""))
		month := time.Date(local.Year(), local.Month(), 1, 0, 0, 0, 0, local.Location())
		if s.Spent, err = d.Store.Spent(ctx, fixed.Reach, everybody.Units, month, now); err != nil {
			return s, err
		}
	}
	if s.Load, err = d.Store.Loads(ctx, now); err != nil {
		return s, err
	}
	first := draft.Soonest(s.Leaves)
	if asks := draft.Question.For(); asks != 0 {
		s.Busy = job.Resting(everybody, asks, first, time.Duration(fixed.Sending.RestHours)*time.Hour)
	}
	if s.Near, err = d.Store.Near(ctx, first.Add(-plan.NearTime), first.Add(plan.NearTime)); err != nil {
		return s, err
	}
	if s.Conversation, err = d.Store.Conversations(ctx); err != nil {
		return s, err
	}
	if draft.Follows != nil {
		if s.Chain, err = d.Store.Chain(ctx, draft.Follows.Message, id); err != nil {
			return s, err
		}
	}
	if s.Copies, err = d.Store.Copies(ctx, id); err != nil || len(s.Copies) == 0 {
		return s, err
	}
	terms, err := d.Store.Terms(ctx)
	for _, t := range terms {
		s.Terms = append(s.Terms, t.Term)
	}
	s.Doubtful = d.examined.by(copies.Examiner{From: fixed.Language, Terms: s.Terms})
	return s, err
}

// Written is what a message says with what its unit adds, as it is cut into lines.
func (d *Service) Written(ctx context.Context, m store.Message, by access.Principal) (lines.Written, error) {
	o, err := d.Store.Organisation(ctx)
	if err != nil {
		return lines.Written{}, err
	}
	everybody, err := d.Store.Roster(ctx)
	if err != nil {
		return lines.Written{}, err
	}
	r, err := d.within(ctx, m.Draft, by.Scope, everybody)
	if err != nil {
		return lines.Written{}, err
	}
	fixed := d.fixed(o, m.Draft, by, r, everybody)
	return lines.Written{Content: m.Draft.Cleaned(), Signature: fixed.Signature, Language: fixed.Language}, nil
}

// hideTitles leaves out the titles of messages that an account may not see.
func (d *Service) hideTitles(ctx context.Context, near []plan.Near, sender access.Principal) error {
	visible, err := d.Messages.Authors(ctx, sender)
	for i := range near {
		if !slices.Contains(visible, near[i].Author) {
			near[i].Title = ""
		}
	}
	return err
}

var known sync.Map // of *time.Location by name; reading one again and again is slow

// zones finds time zones; one that there is not is the organisation's own, and
// that is UTC if need be.
func zones(own string) func(name string) *time.Location {
	home := location(own, time.UTC)
	return func(name string) *time.Location {
		if name == "" || name == own {
			return home
		}
		return location(name, home)
	}
}

func location(name string, otherwise *time.Location) *time.Location {
	if loc, ok := known.Load(name); ok {
		return loc.(*time.Location)
	}
	loc, err := time.LoadLocation(name)
	if err != nil {
		return otherwise
	}
	known.Store(name, loc)
	return loc
}

// Leaving words when a plan leaves, for a sentence.
func Leaving(w *Worked) string {
	first := w.Summary.First
	if !first.Equal(w.Plan.Settings.Leaves) {
		return "on " + w.Plan.Settings.Moment(first) + "; until then Stop undoes everything"
	}
	if w.Organisation.Hold == 0 {
		return "at once"
	}
	return fmt.Sprintf("after a hold of %s, in which Stop undoes everything", plan.Count(
		int(w.Organisation.Hold.Seconds()), "second", "seconds",
	))
}

// Checked is what a sender saw and typed in the final check.
type Checked struct {
	Recipients *int    // the people that the check spoke of; nil when nobody looked at it
	Copies     *string // how far the copies were; nil when nobody looked at them
	Typed      int     // the number that was typed, where it must be
}

// ErrChanged means that the plan is no longer the one that was checked.
var ErrChanged = errors.New("the plan has changed since it was checked")

// same refuses a plan that comes to other people than those of the check.
func (c Checked) same(w *Worked) error {
	if n := w.Summary.Recipients; c.Recipients != nil && n != *c.Recipients {
		return fmt.Errorf("%w: it was to go to %s and now goes to %s. Look at it again", ErrChanged,
			plan.Count(*c.Recipients, "person", "people"), plan.Count(n, "person", "people"))
	}
	if c.Copies != nil && *c.Copies != w.Plan.CopiesSeen() {
		return fmt.Errorf("%w: the copies in other languages are no longer as they were. Look at it again", ErrChanged)
	}
	return nil
}

// confirmed refuses a plan that was not confirmed the way it must be: by
// somebody else's yes, or by the number of people.
func (c Checked) confirmed(w *Worked, assented bool) error {
	switch {
	case !w.Summary.Confirm:
		return nil
	case w.Plan.Settings.Sending.SecondYes && !assented:
		return fmt.Errorf("%w: somebody else must say yes to it", ErrBlocked)
	case !w.Plan.Settings.Sending.SecondYes && c.Typed != w.Summary.Recipients:
		return fmt.Errorf("%w: type the number of people, %d, to confirm", ErrBlocked, w.Summary.Recipients)
	}
	return nil
}

// Send works a draft out once more and puts it on hold. The revision is the
// one that the sender checked; a newer one is store.ErrConflict. If the plan
// comes to other people than those of the check, it is ErrChanged. A draft to
// which somebody else's yes was asked goes out as the asker's; sending it is
// that yes.
func (d *Service) Send(
	ctx context.Context, id, revision int64, checked Checked, by access.Principal,
) (store.Message, error) {
	m, err := d.draft(ctx, id, revision, by)
	if err != nil {
		return m, err
	}
	if err := mayWrite(m.Draft, by); err != nil {
		return m, err
	}
	sender, who := by, store.Senders{Sender: by.ID}
	if m.Asks(by.ID) {
		if sender, err = d.asker(ctx, m); err != nil {
			return m, err
		}
		who = store.Senders{Sender: sender.ID, Assenter: by.ID}
	}
	w, err := d.ready(ctx, m, checked, sender)
	if err != nil {
		return m, err
	}
	if err := checked.confirmed(w, who.Assenter != 0); err != nil {
		return m, err
	}
	if err := d.Store.Hold(ctx, id, revision, who, w.Roster, w.Plan, d.Now(), w.Summary.First); err != nil {
		return m, err
	}
	d.Held(id)
	return d.Store.Message(ctx, id)
}

// Ask asks for somebody else's yes to a draft as it was checked. A change of
// the draft takes the question back.
func (d *Service) Ask(ctx context.Context, id, revision int64, checked Checked, by access.Principal) error {
	m, err := d.draft(ctx, id, revision, by)
	if err != nil {
		return err
	}
	w, err := d.ready(ctx, m, checked, by)
	if err != nil {
		return err
	}
	if !w.Summary.Confirm || !w.Plan.Settings.Sending.SecondYes {
		return fmt.Errorf("%w: it needs nobody else's yes, so send it", ErrBlocked)
	}
	if err := d.Store.AskYes(ctx, id, revision, by.ID); err != nil {
		return err
	}
	d.Held(id)
	return nil
}

// Asked works out a draft to which somebody else's yes was asked, for whoever
// asks: what goes out when that yes is said.
func (d *Service) Asked(ctx context.Context, id int64, by access.Principal) (*Worked, error) {
	m, err := d.Messages.Message(ctx, by, id)
	if err == nil && m.AskerID == 0 {
		err = store.ErrConflict
	}
	if err != nil {
		return nil, err
	}
	asker, err := d.asker(ctx, m)
	if err != nil {
		return nil, err
	}
	return d.plan(ctx, m.ID, m.Draft, asker)
}

func (d *Service) asker(ctx context.Context, m store.Message) (access.Principal, error) {
	a, err := d.Store.Account(ctx, m.AskerID)
	if err == nil && !a.Active {
		err = fmt.Errorf("%w: the account of %s, who asked, has ended", ErrBlocked, m.Asker)
	}
	return a.Principal(access.Inside), err
}

// draft returns a message that somebody may see, is still a draft, and at a revision.
func (d *Service) draft(ctx context.Context, id, revision int64, by access.Principal) (store.Message, error) {
	m, err := d.Messages.Message(ctx, by, id)
	if err == nil && (m.State != store.Draft || m.Revision != revision) {
		err = store.ErrConflict
	}
	return m, err
}

// ready works out a draft for a sender and refuses what cannot go, or would go
// to other people than those of the check.
func (d *Service) ready(
	ctx context.Context, m store.Message, checked Checked, sender access.Principal,
) (*Worked, error) {
	if err := mayWrite(m.Draft, sender); err != nil {
		return nil, err
	}
	w, err := d.plan(ctx, m.ID, m.Draft, sender)
	if err != nil {
		return nil, err
	}
	if problem, blocked := w.Summary.Blocked(); blocked {
		return nil, fmt.Errorf("%w: %s", ErrBlocked, wording.Problem(problem, w.Plan.Settings))
	}
	if err := checked.same(w); err != nil {
		return nil, err
	}
	if err := forJob(w); err != nil {
		return nil, err
	}
	return w, d.complete(ctx, m.Draft)
}

// forJob refuses a question for a job into which nobody can come.
func forJob(w *Worked) error {
	asks := w.Plan.Draft.Question.For()
	if asks == 0 {
		return nil
	}
	g, there := w.Roster.Group(asks)
	switch {
	case !there || g.Kind != roster.Job:
		return fmt.Errorf("%w: the job for which it asks is not there; take it away from the question", ErrBlocked)
	case g.Closed != nil:
		return fmt.Errorf("%w: the job %s is closed; open it again, or take it away from the question", ErrBlocked, g.Name)
	}
	return nil
}

func mayWrite(draft message.Draft, by access.Principal) error {
	if draft.Urgency == roster.Emergency && !by.May(access.WriteEmergencies) {
		return fmt.Errorf("%w: your account may not write emergencies", ErrBlocked)
	}
	return nil
}

// complete refuses a draft whose files are not all here.
func (d *Service) complete(ctx context.Context, draft message.Draft) error {
	missing, err := d.Store.Missing(ctx, draft.Everything())
	if err != nil || len(missing) == 0 {
		return err
	}
	return fmt.Errorf("%w: add %s again; it is not here", ErrBlocked, strings.Join(missing, ", "))
}

// SendLate lets a message leave whose time passed while the program was down.
func (d *Service) SendLate(ctx context.Context, id int64, by access.Principal) error {
	m, err := d.Messages.Message(ctx, by, id)
	if err != nil {
		return err
	}
	if err := mayWrite(m.Draft, by); err != nil {
		return err
	}
	if err := d.Store.LetLateLeave(ctx, m.ID, by.ID, d.Now()); err != nil {
		return err
	}
	d.Held(m.ID)
	return nil
}

// Stopped is what Stop came to.
type Stopped struct {
	Draft   bool // nothing had left: the message is a draft again
	Stopped int  // deliveries that will never leave
	Leaving int  // deliveries that are still being handed over; some may be stopped yet
}

// Stop ends what is not being handed over of a message; see store.Stop. It waits
// for a moment until what was being handed over has ended, so that it can say how
// many were stopped.
func (d *Service) Stop(ctx context.Context, id int64, by access.Principal) (Stopped, error) {
	if _, err := d.Messages.Message(ctx, by, id); err != nil {
		return Stopped{}, err
	}
	draft, err := d.Store.Stop(ctx, id, by.Name, d.Now())
	if err != nil || draft {
		d.Held(id)
		return Stopped{Draft: draft}, err
	}
	s := Stopped{Leaving: d.Recall(ctx, id)}
	d.Held(id)
	m, err := d.Store.Heading(ctx, id)
	s.Stopped = m.Figures.StoppedDeliveries
	return s, err
}

// Pause lets nothing more of a message leave until somebody says that it goes on. What
// is being handed over at that moment leaves.
func (d *Service) Pause(ctx context.Context, id int64, by access.Principal) error {
	if _, err := d.Messages.Message(ctx, by, id); err != nil {
		return err
	}
	if err := d.Store.Pause(ctx, id, by.Name); err != nil {
		return err
	}
	d.TakeBack(id)
	d.Held(id)
	return nil
}

// Resume lets a paused message go on.
func (d *Service) Resume(ctx context.Context, id int64, by access.Principal) error {
	m, err := d.Messages.Message(ctx, by, id)
	if err != nil {
		return err
	}
	if err := mayWrite(m.Draft, by); err != nil {
		return err
	}
	if err := d.Store.Resume(ctx, id); err != nil {
		return err
	}
	d.Held(id)
	return nil
}

// Decide settles deliveries of which nobody can tell whether they left: they are
// sent again, or left. It returns how many there were.
func (d *Service) Decide(ctx context.Context, id int64, again bool, by access.Principal) (int, error) {
	m, err := d.Messages.Message(ctx, by, id)
	if err != nil {
		return 0, err
	}
	if again {
		if err := mayWrite(m.Draft, by); err != nil {
			return 0, err
		}
	}
	n, err := d.Store.Decide(ctx, m.ID, again, by.Name, d.Now())
	if err == nil {
		d.Held(m.ID)
	}
	return n, err
}

// Try sends what a recipient would get, given by index, to the sender's own
// addresses and returns what was sent: those of the person on the roster who
// has the mailbox that the sender signs in with, or that mailbox alone. With a language
// it is the copy in it, as far as it is filled.
func (d *Service) Try(
	ctx context.Context, message int64, draft message.Draft, recipient int, language string, by access.Principal,
) ([]plan.Delivery, error) {
	w, err := d.Plan(ctx, message, draft, by)
	if err != nil {
		return nil, err
	}
	if recipient < 0 || recipient >= len(w.Plan.Recipients) {
		return nil, fmt.Errorf("%w: choose somebody whom it reaches, for whom it is filled", ErrBlocked)
	}
	there := func(c copies.Copy) bool { return c.Language == language }
	if language != "" && !slices.ContainsFunc(w.Plan.Settings.Copies, there) {
		return nil, fmt.Errorf("%w: it has no copy in that language yet", ErrBlocked)
	}
	own := ownAddresses(w.Roster, by)
	if len(own) == 0 {
		return nil, fmt.Errorf(
			"%w: no address of yours is known; sign in with your mail address, or put it on the roster", ErrBlocked,
		)
	}
	if err := d.complete(ctx, draft); err != nil {
		return nil, err
	}
	w.Plan.Settings.Leaves = d.Now()
	deliveries, missing := w.Plan.Trial(recipient, own, language)
	if missing != "" {
		name := w.Roster.At(w.Plan.Recipients[recipient].Person).Name()
		return nil, fmt.Errorf("%w: nothing fills “%s” for %s", ErrBlocked, missing, name)
	}
	if len(deliveries) == 0 {
		return nil, fmt.Errorf("%w: no channel by which it could reach you has content and a carrier", ErrBlocked)
	}
	id, err := d.Store.SendTrial(ctx, by.ID, w.Plan, deliveries, d.Now())
	if err != nil {
		return nil, err
	}
	d.Held(id)
	return deliveries, nil
}

func ownAddresses(r *roster.Roster, by access.Principal) []roster.Address {
	if !strings.Contains(by.Login, "@") {
		return nil
	}
	for _, i := range r.Holders(by.Login) {
		if p := r.At(i); !p.Stranger() {
			return p.Addresses
		}
	}
	return []roster.Address{{Channel: roster.Email, Value: by.Login}}
}
