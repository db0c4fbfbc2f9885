package desks

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

// Share lets all in a thread see what is said in it, and tells them so; or ends that.
func (s *Service) Share(ctx context.Context, id int64, shared bool, by access.Principal) error {
	return s.do(ctx, id, by, func(t store.Thread) error {
		v, err := s.open(ctx, t, by)
		if err != nil || t.Shared == shared {
			return err
		}
		if shared {
			return s.tell(ctx, v, v.who().Audience(v.desk, v.roster), store.NowShared, fmt.Sprintf("share %d %s", id, s.stamp()))
		}
		told := v.told()
		if len(told) == 0 {
			return s.Store.UnshareThread(ctx, id)
		}
		err = s.tell(ctx, v, justThese(told), store.NowAlone, fmt.Sprintf("alone %d %s", id, s.stamp()))
		if errors.Is(err, sending.ErrBlocked) { // nobody of them can be told
			return s.Store.UnshareThread(ctx, id)
		}
		return err
	})
}

func (s *Service) stamp() string { return fmt.Sprint(s.Now().UnixMilli()) }

// justThese is an audience of people, each for themselves.
func justThese(people []roster.PersonID) audience.Audience {
	return audience.Audience{
		Parts: []audience.Part{{Kind: audience.ByPeople, People: people}}, Receivers: audience.Themselves,
	}
}

// tell tells some in a thread, each in their language, who reads what is said in it.
func (s *Service) tell(
	ctx context.Context, v round, whom audience.Audience, sharing store.Sharing, source string,
) error {
	by, err := s.speaker(ctx)
	if err != nil {
		return err
	}
	key := phrase.Key("thread shared")
	if sharing == store.NowAlone {
		key = "thread alone"
	}
	say := func(organisation, tag string) store.Copied {
		words := phrase.In(tag)
		return store.Copied{Language: tag, Text: words.Say(key, "thread", v.Name, "organisation", organisation,
			"word", words.Say("leave word"))}
	}
	r := v.sends("…", nil)
	r.Audience, r.Sharing, r.Source = whom, sharing, source
	w, err := s.Sender.WeighRound(ctx, r, by)
	if err != nil {
		return err
	}
	fixed := w.Plan.Settings.Fixed
	r.Text = say(fixed.Organisation, fixed.Language).Text
	for _, reads := range w.Plan.OtherReaders(w.Roster) {
		r.Copies = append(r.Copies, say(fixed.Organisation, reads.Language))
	}
	_, err = s.Sender.SendRound(ctx, r, by)
	return err
}

// tellNew tells those who came into a shared thread that all see what is said, before
// anything else goes to them. It returns the thread as it is then.
func (s *Service) tellNew(ctx context.Context, v round) (round, error) {
	by, err := s.speaker(ctx)
	if err != nil {
		return v, err
	}
	w, err := s.Sender.WeighRound(ctx, v.sends("…", nil), by)
	if err != nil {
		return v, err
	}
	told := v.told()
	var untold []roster.PersonID
	for _, r := range w.Plan.Recipients {
		if p := w.Roster.At(r.Person).ID; p > 0 && !slices.Contains(told, p) {
			untold = append(untold, p)
		}
	}
	if len(untold) == 0 {
		return v, nil
	}
	// The same people are told once, also when two things come in at the same moment.
	source := fmt.Sprintf("told %d %d %v", v.ID, v.lastTold().UnixMilli(), untold)
	err = s.tell(ctx, v, justThese(untold), store.NowShared, source)
	if err != nil && !errors.Is(err, sending.ErrBlocked) && !errors.Is(err, store.ErrConflict) {
		return v, err
	}
	return s.round(ctx, v.Thread)
}

// passOn passes what somebody wrote in a thread on to the others, if all in it see what is
// said. It can be done again: what was passed on is not passed on twice.
func (s *Service) passOn(ctx context.Context, t taken, thread int64) error {
	if t.person == nil || strings.TrimSpace(t.Text) == "" && len(t.files) == 0 {
		return nil
	}
	kept, err := s.Store.Thread(ctx, thread)
	if err != nil || !kept.Shared {
		return err
	}
	v, err := s.round(ctx, kept)
	if err != nil || v.ended() {
		return err
	}
	entry, passed, err := s.Store.EntryToPass(ctx, t.Key)
	if err != nil || passed != 0 {
		return err
	}
	earlier, err := s.Store.PassedSince(ctx, thread, t.person.ID, t.At.Add(-desk.PassedWithin))
	if err != nil {
		return err
	}
	if desk.Passes(t.person.ID, v.told(), t.At, earlier) == nil {
		return nil
	}
	if v, err = s.tellNew(ctx, v); err != nil {
		return err
	}
	by, err := s.speaker(ctx)
	if err != nil {
		return err
	}
	r := v.sends("…", nil)
	r.Passes, r.Files = entry, t.files
	others := desk.Passes(t.person.ID, v.told(), t.At, earlier)
	if len(others) == 0 {
		return nil
	}
	if r.Audience, err = s.stillIn(ctx, r, others, by); err != nil || len(r.Audience.Parts) == 0 {
		return err
	}
	if err := s.sayFor(ctx, t, &r, by); err != nil {
		return err
	}
	_, err = s.Sender.SendRound(ctx, r, by)
	if errors.Is(err, store.ErrConflict) || errors.Is(err, sending.ErrBlocked) {
		return nil // it is passed on already, or nobody can get it
	}
	return err
}

// stillIn are those of some people who are in a thread now.
func (s *Service) stillIn(
	ctx context.Context, r sending.Round, people []roster.PersonID, by access.Principal,
) (audience.Audience, error) {
	w, err := s.Sender.WeighRound(ctx, r, by)
	if err != nil {
		return audience.Audience{}, err
	}
	var in []roster.PersonID
	for _, recipient := range w.Plan.Recipients {
		if p := w.Roster.At(recipient.Person).ID; slices.Contains(people, p) {
			in = append(in, p)
		}
	}
	if len(in) == 0 {
		return audience.Audience{}, nil
	}
	return justThese(in), nil
}

// sayFor words what somebody wrote for the others: under their name, in the organisation's
// language as far as it can be said, and in those that the others read.
func (s *Service) sayFor(ctx context.Context, t taken, r *sending.Round, by access.Principal) error {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	written := t.person.Language
	if written == "" {
		written = o.Language
	}
	words := literal(strings.TrimSpace(t.Text))
	under := func(text string) string { return strings.TrimSpace(literal(t.person.Name()) + ": " + text) }
	in := func(tag string) (string, error) {
		if words == "" {
			return "", nil
		}
		if copies.SameLanguage(written, tag) {
			return words, nil
		}
		if s.Reader == nil {
			return "", nil
		}
		spoken, err := s.Reader.Say(ctx, written, tag, words, false)
		return spoken.Text, err
	}
	text, err := in(o.Language)
	if err != nil {
		return err
	}
	if text == "" {
		text = words
	}
	r.Text = under(text)
	w, err := s.Sender.WeighRound(ctx, *r, by)
	if err != nil {
		return err
	}
	for _, reads := range w.Plan.OtherReaders(w.Roster) {
		text, err := in(reads.Language)
		if err != nil {
			return err
		}
		if text != "" {
			r.Copies = append(r.Copies, store.Copied{Language: reads.Language, Text: under(text)})
		}
	}
	w, err = s.Sender.WeighRound(ctx, *r, by)
	if errors.Is(err, sending.ErrBlocked) {
		r.Copies = nil // a copy has other lines than the text; better all get it as it is
		w, err = s.Sender.WeighRound(ctx, *r, by)
	}
	if err != nil {
		return err
	}
	if slices.ContainsFunc(w.Summary.Problems, func(p plan.Problem) bool { return p.Code == plan.TooLarge }) {
		r.Files = nil // mailboxes here do not take them; the desk has them
	}
	return nil
}

// literal is a text from outside in which nothing is a field.
func literal(text string) string { return strings.ReplaceAll(text, "{{", "{ {") }
