// Package translation is what accounts do with the copies of a message in other
// languages: they see each line beside its original, fill what is missing from the
// memory and the translation service, write, and check.
package translation

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"
	"unicode/utf8"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// Messages are the messages that somebody may see; any other is store.ErrNotFound.
type Messages interface {
	Message(ctx context.Context, by access.Principal, id int64) (store.Message, error)
}

// Writings know what a message says with what its unit adds.
type Writings interface {
	Written(ctx context.Context, m store.Message, by access.Principal) (lines.Written, error)
}

// Machine says lines in another language; nil lines are those that it cannot say.
type Machine interface {
	Translate(ctx context.Context, r carrier.TranslationRequest) (carrier.TranslationAnswer, error)
}

// Service keeps the copies of messages for accounts.
type Service struct {
	Store    *store.Store
	Messages Messages
	Writings Writings
	Machine  Machine // nil while there is none
	Now      func() time.Time
	// Changed is told which message has another copy now. It must not block.
	Changed func(messageID int64)
}

// ErrUnfit means that something is not as lines and copies are.
var ErrUnfit = errors.New("the copy was not changed")

// Line is a line of a message beside how it is said.
type Line struct {
	lines.Standing
	Target copies.Target // without text while it is missing
	Doubts []copies.Doubt
	Terms  []copies.Term   // of the glossary that stand in it
	Was    *copies.Target  // what it said before its original changed
	Others []copies.Saying // readers' words that stand beside it
}

// Copy is a message in one language, line against line.
type Copy struct {
	Message  store.Message
	From     string // the language of the original, BCP 47
	Language string
	Lines    []Line
	copies.Standing
}

// open is a message that is looked at in a language.
type open struct {
	message  store.Message
	written  lines.Written
	lines    []lines.Standing
	copy     copies.Copy
	examiner copies.Examiner
}

func (s *Service) open(ctx context.Context, by access.Principal, id int64, language string) (open, error) {
	var o open
	tag, ok := phrase.Tag(language)
	if !ok {
		return o, fmt.Errorf("%w: %q is no language", ErrUnfit, language)
	}
	var err error
	if o.message, err = s.Messages.Message(ctx, by, id); err != nil {
		return o, err
	}
	if o.written, err = s.Writings.Written(ctx, o.message, by); err != nil {
		return o, err
	}
	if tag == o.written.Language {
		return o, fmt.Errorf("%w: the message is written in it", ErrUnfit)
	}
	o.lines = lines.Cut(o.written)
	o.copy = copies.Copy{Language: tag, Targets: map[string]copies.Target{}}
	kept, err := s.Store.Copies(ctx, id)
	if err != nil {
		return o, err
	}
	if i := slices.IndexFunc(kept, func(c copies.Copy) bool { return c.Language == tag }); i >= 0 {
		o.copy = kept[i]
	}
	terms, err := s.Store.Terms(ctx)
	o.examiner = copies.Examiner{From: o.written.Language}
	for _, t := range terms {
		o.examiner.Terms = append(o.examiner.Terms, t.Term)
	}
	return o, err
}

// Open returns a message in a language, line against line.
func (s *Service) Open(ctx context.Context, by access.Principal, id int64, language string) (Copy, error) {
	o, err := s.open(ctx, by, id, language)
	if err != nil {
		return Copy{}, err
	}
	out := Copy{
		Message: o.message, From: o.written.Language, Language: o.copy.Language,
		Standing: o.copy.Standing(o.lines, o.examiner.Doubtful),
	}
	stale := o.copy.Stale(o.lines)
	said, err := s.Store.Sayings(ctx, id)
	if err != nil {
		return Copy{}, err
	}
	for _, l := range o.lines {
		line := Line{Standing: l, Target: o.copy.Targets[l.Key()], Terms: o.examiner.Applying(l.Text, o.copy.Language)}
		if line.Target.Text != "" {
			line.Doubts = o.examiner.Doubts(l.Line, line.Target.Text, o.copy.Language)
		}
		if was, ok := stale[l.Key()]; ok {
			line.Was = &was
		}
		for _, s := range said {
			if s.Language == out.Language && s.Key == l.Key() && line.Target.Differs(s.Saying) {
				line.Others = append(line.Others, s.Saying)
			}
		}
		out.Lines = append(out.Lines, line)
	}
	return out, nil
}

// Change is a line as somebody wants it. Was is the target that they saw, "" for none.
type Change struct {
	Key     string
	Was     string
	Text    string
	Checked bool // they read it, and it is right
}

// mostChanges is how many lines are changed at once.
const mostChanges = 2000

// Write keeps lines as somebody wrote or checked them. Unless the text is another one,
// a line keeps where it came from.
func (s *Service) Write(
	ctx context.Context, by access.Principal, id int64, language string, changes []Change,
) (Copy, error) {
	o, err := s.open(ctx, by, id, language)
	if err != nil {
		return Copy{}, err
	}
	if len(changes) > mostChanges {
		return Copy{}, fmt.Errorf("%w: %d lines at once, and no more than %d can be", ErrUnfit, len(changes), mostChanges)
	}
	filled := make([]store.Filled, len(changes))
	for i, c := range changes {
		if filled[i], err = o.filled(c, by.Name, s.Now()); err != nil {
			return Copy{}, err
		}
	}
	if err := s.fill(ctx, by, o, filled); err != nil {
		return Copy{}, err
	}
	return s.Open(ctx, by, id, language)
}

// filled is a line as it is kept after a change.
func (o open) filled(c Change, by string, now time.Time) (store.Filled, error) {
	i := slices.IndexFunc(o.lines, func(l lines.Standing) bool { return l.Key() == c.Key })
	if i < 0 {
		return store.Filled{}, fmt.Errorf("%w: a line of it is no longer in the message; look at it again", ErrUnfit)
	}
	text := lines.CleanTarget(c.Text)
	if n := utf8.RuneCountInString(text); n > lines.LongestTarget {
		return store.Filled{}, fmt.Errorf("%w: a line of %d characters, and it can have %d", ErrUnfit, n, lines.LongestTarget)
	}
	f := store.Filled{Was: c.Was, Target: o.copy.Targets[c.Key]}
	if f.Text != text || f.Source == "" {
		f.Target = copies.Target{Text: text, Source: copies.Person, By: by, At: now}
	}
	f.Original = o.lines[i].Line
	switch {
	case !c.Checked || text == "":
		f.CheckedBy, f.CheckedAt = "", time.Time{}
	case !f.Checked():
		f.CheckedBy, f.CheckedAt = by, now
	}
	return f, nil
}

func (s *Service) fill(ctx context.Context, by access.Principal, o open, filled []store.Filled) error {
	if len(filled) == 0 {
		return nil
	}
	err := s.Store.Fill(ctx, o.message.ID, o.copy.Language, o.written.Language, unitOf(by), filled)
	if err == nil {
		s.Changed(o.message.ID)
	}
	return err
}

// unitOf is the unit to which what somebody checked is put down.
func unitOf(by access.Principal) roster.UnitID { return by.Scope.Pays() }

// Drop forgets a copy.
func (s *Service) Drop(ctx context.Context, by access.Principal, id int64, language string) error {
	o, err := s.open(ctx, by, id, language)
	if err != nil {
		return err
	}
	if err := s.Store.DropCopy(ctx, id, o.copy.Language); err != nil {
		return err
	}
	s.Changed(id)
	return nil
}
