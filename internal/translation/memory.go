package translation

import (
	"bytes"
	"context"
	"fmt"
	"time"
	"unicode/utf8"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/exchange"
	"upperlantern/internal/store"
)

// cleaned is a target as it is kept, or an error that says what is wrong with it.
func cleaned(text string) (string, error) {
	text = lines.CleanTarget(text)
	if n := utf8.RuneCountInString(text); n > lines.LongestTarget {
		return "", fmt.Errorf("%w: a line of %d characters, and it can have %d", ErrUnfit, n, lines.LongestTarget)
	}
	if text == "" {
		return "", fmt.Errorf("%w: it says nothing", ErrUnfit)
	}
	return text, nil
}

// Correct changes what a line of the memory says in a language, and returns the drafts
// and scheduled messages that say it as it was: they keep what they say.
func (s *Service) Correct(
	ctx context.Context, by access.Principal, id int64, language, was, text string,
) ([]store.MessageTitle, error) {
	text, err := cleaned(text)
	if err != nil {
		return nil, err
	}
	line, err := s.Store.Correct(ctx, id, language, was, text, by.Name, s.Now())
	if err != nil {
		return nil, err
	}
	return s.Store.SayingSo(ctx, line.Original.Key(), language)
}

// Add remembers a line that somebody knows to be right.
func (s *Service) Add(ctx context.Context, by access.Principal, original lines.Line, language, text string) error {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	tag, ok := phrase.Tag(language)
	if !ok || tag == o.Language {
		return fmt.Errorf("%w: %q is no language to translate into", ErrUnfit, language)
	}
	if text, err = cleaned(text); err != nil {
		return err
	}
	if original.Text, err = cleaned(original.Text); err != nil {
		return err
	}
	return s.Store.Remember(ctx, []store.MemoryLine{s.remembered(by, o.Language, original, tag, text, time.Time{})})
}

func (s *Service) remembered(
	by access.Principal, from string, original lines.Line, language, text string, at time.Time,
) store.MemoryLine {
	if at.IsZero() || at.After(s.Now()) {
		at = s.Now()
	}
	return store.MemoryLine{From: from, Unit: unitOf(by), Recalled: store.Recalled{
		Remembered: copies.Remembered{Original: original, Language: language, Text: text}, CheckedBy: by.Name, CheckedAt: at,
	}}
}

// TMX is the whole memory as a file.
func (s *Service) TMX(ctx context.Context) ([]byte, error) {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	w, err := exchange.NewTMX(&b, o.Language)
	if err != nil {
		return nil, err
	}
	var unit exchange.TMXUnit
	var id int64
	end := func() error {
		if len(unit.Targets) == 0 {
			return nil
		}
		return w.Add(unit)
	}
	err = s.Store.EachRemembered(ctx, func(l store.MemoryLine) error {
		if l.ID != id {
			if err := end(); err != nil {
				return err
			}
			id, unit = l.ID, exchange.TMXUnit{From: l.From, Source: l.Original}
		}
		unit.Targets = append(unit.Targets, exchange.TMXTarget{
			Language: l.Language, Text: l.Text, By: l.CheckedBy, At: l.CheckedAt,
		})
		return nil
	})
	if err == nil {
		err = end()
	}
	if err == nil {
		err = w.End()
	}
	return b.Bytes(), err
}

// Loaded is what loading a file came to.
type Loaded struct {
	Added   int
	Skipped int
	Why     []string // of some that were skipped
}

const (
	loadedTogether = 500
	mostReasons    = 20
)

func (l *Loaded) skip(why string) {
	if l.Skipped++; len(l.Why) < mostReasons {
		l.Why = append(l.Why, why)
	}
}

// LoadTMX adds the lines of a file to the memory, as checked by whoever loads it. Lines
// whose original is in another language than the organisation writes in are skipped.
func (s *Service) LoadTMX(ctx context.Context, by access.Principal, content []byte) (Loaded, error) {
	var out Loaded
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return out, err
	}
	var some []store.MemoryLine
	flush := func() error {
		err := s.Store.Remember(ctx, some)
		out.Added, some = out.Added+len(some), some[:0]
		return err
	}
	err = exchange.ReadTMX(content, func(u exchange.TMXUnit) error {
		original, err := cleaned(u.Source.Text)
		if err != nil || !copies.SameLanguage(u.From, o.Language) {
			out.skip(fmt.Sprintf("“%s” is in “%s”", shortened(u.Source.Text), u.From))
			return nil
		}
		u.Source.Text = original
		for _, t := range u.Targets {
			text, err := cleaned(t.Text)
			if err != nil || t.Language == "" || t.Language == o.Language {
				out.skip(fmt.Sprintf("“%s” has no text that could be kept", shortened(u.Source.Text)))
				continue
			}
			some = append(some, s.remembered(by, o.Language, u.Source, t.Language, text, t.At))
		}
		if len(some) < loadedTogether {
			return nil
		}
		return flush()
	})
	if err == nil {
		err = flush()
	}
	if err != nil {
		return out, err
	}
	return out, s.Store.TidyMemory(ctx)
}

const shown = 60

func shortened(text string) string {
	if r := []rune(text); len(r) > shown {
		return string(r[:shown]) + "…"
	}
	return text
}

// SetTerm keeps how a term is said in a language.
func (s *Service) SetTerm(ctx context.Context, t copies.Term) error {
	kept, ok := t.Tidied()
	if !ok {
		return fmt.Errorf(
			"%w: a term, a language and how it is said are needed, of %d characters at most", ErrUnfit, copies.LongestTerm,
		)
	}
	return s.Store.SetTerm(ctx, kept)
}

// Glossary is the glossary as it is written to files.
func (s *Service) Glossary(ctx context.Context) ([]copies.Term, string, error) {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, "", err
	}
	kept, err := s.Store.Terms(ctx)
	terms := make([]copies.Term, len(kept))
	for i, t := range kept {
		terms[i] = t.Term
	}
	return terms, o.Language, err
}

// LoadGlossary adds the terms of a file to the glossary.
func (s *Service) LoadGlossary(ctx context.Context, content []byte) (Loaded, error) {
	var out Loaded
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return out, err
	}
	terms, skipped, err := exchange.ReadGlossary(content, o.Language)
	if err != nil {
		return out, err
	}
	for _, why := range skipped {
		out.skip(why)
	}
	if err := s.Store.SetTerms(ctx, terms); err != nil {
		return out, err
	}
	out.Added = len(terms)
	return out, nil
}
