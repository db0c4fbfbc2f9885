package translation

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/store"
)

// Outcome is what filling the missing lines of a copy came to.
type Outcome struct {
	Memory   int // lines that were checked before
	Adapted  int
	Machine  int
	Withheld int    // lines that name somebody and were not sent to the service
	Left     int    // lines that are still missing
	Note     string // why the service could not help; "" when it did
}

// Draft fills the missing lines of a copy: from the memory, and then from the
// translation service. A line that names somebody of the roster is not sent there
// unless naming says so.
func (s *Service) Draft(
	ctx context.Context, by access.Principal, id int64, language string, naming bool,
) (Outcome, error) {
	o, err := s.open(ctx, by, id, language)
	if err != nil {
		return Outcome{}, err
	}
	var missing []lines.Line
	for _, l := range o.lines {
		if _, ok := o.copy.Say("", l.Line); !ok {
			missing = append(missing, l.Line)
		}
	}
	out := Outcome{Left: len(missing)}
	filled, missing, err := s.recall(ctx, o, missing, &out)
	if err != nil {
		return out, err
	}
	asked := missing
	if !naming {
		if asked, err = s.withoutNames(ctx, o, missing); err != nil {
			return out, err
		}
		out.Withheld = len(missing) - len(asked)
	}
	said, err := s.ask(ctx, o, asked, &out)
	if err != nil {
		return out, err
	}
	filled = append(filled, said...)
	out.Left -= len(filled)
	return out, s.fill(ctx, by, o, filled)
}

// recall fills lines from the memory and returns those that it does not know.
func (s *Service) recall(
	ctx context.Context, o open, missing []lines.Line, out *Outcome,
) (filled []store.Filled, rest []lines.Line, err error) {
	keys, shapes := make([]string, len(missing)), make([]string, len(missing))
	for i, l := range missing {
		keys[i], shapes[i] = l.Key(), copies.Shape(l.Text, o.written.Language)
	}
	same, err := s.Store.RecallSame(ctx, o.written.Language, keys)
	if err != nil {
		return nil, nil, err
	}
	shaped, err := s.Store.RecallShaped(ctx, o.written.Language, shapes)
	if err != nil {
		return nil, nil, err
	}
	for _, l := range missing {
		f, ok := remembered(same, l, o.copy.Language)
		if ok {
			out.Memory++
		} else if f, ok = s.adapted(shaped, l, o, copies.Adapt); ok {
			out.Adapted++
		} else if f, ok, err = s.renamed(ctx, l, o); err != nil {
			return nil, nil, err
		} else if ok {
			out.Adapted++
		}
		if ok {
			filled = append(filled, f)
		} else {
			rest = append(rest, l)
		}
	}
	return filled, rest, nil
}

// remembered is a line as it was checked before.
func remembered(list []store.Recalled, l lines.Line, tag string) (store.Filled, bool) {
	key := l.Key()
	for _, r := range list {
		if r.Language == tag && r.Original.Key() == key {
			return store.Filled{Target: copies.Target{
				Original: l, Text: r.Text, Source: copies.Memory, By: r.CheckedBy, At: r.CheckedAt, CheckedBy: r.CheckedBy,
				CheckedAt: r.CheckedAt,
			}}, true
		}
	}
	return store.Filled{}, false
}

// renamed is a line as one was checked that has another name in it.
func (s *Service) renamed(ctx context.Context, l lines.Line, o open) (store.Filled, bool, error) {
	candidates, err := s.Store.LikeLines(ctx, o.written.Language, o.copy.Language, l.Text)
	if err != nil || len(candidates) == 0 {
		return store.Filled{}, false, err
	}
	ids := make([]int64, len(candidates))
	for i, c := range candidates {
		ids[i] = c.ID
	}
	targets, err := s.Store.Targets(ctx, ids, o.copy.Language)
	if err != nil {
		return store.Filled{}, false, err
	}
	for _, id := range ids {
		if f, ok := s.adapted(targets[id], l, o, copies.AdaptName); ok {
			return f, true, nil
		}
	}
	return store.Filled{}, false, nil
}

// adapt says a line as a remembered one was said, if it can.
type adapt func(m copies.Remembered, line lines.Line, from string) (string, bool)

// adapted is a line as one of some others was checked, adapted to it.
func (s *Service) adapted(list []store.Recalled, l lines.Line, o open, adapt adapt) (store.Filled, bool) {
	for _, r := range list {
		if r.Language != o.copy.Language {
			continue
		}
		if text, ok := adapt(r.Remembered, l, o.written.Language); ok {
			return store.Filled{Target: copies.Target{
				Original: l, Text: text, Source: copies.Adapted, By: r.CheckedBy, At: s.Now(),
			}}, true
		}
	}
	return store.Filled{}, false
}

func (s *Service) withoutNames(ctx context.Context, o open, list []lines.Line) ([]lines.Line, error) {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, err
	}
	organisation, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, err
	}
	naming := copies.NamingOf(r, organisation.Region)
	names := func(l lines.Line) bool { return naming.Names(l, o.written.Language) }
	return slices.DeleteFunc(slices.Clone(list), names), nil
}

// ask lets the translation service say lines. That it cannot is no error: what it did
// not say is missing, and the outcome says why.
func (s *Service) ask(ctx context.Context, o open, list []lines.Line, out *Outcome) ([]store.Filled, error) {
	if len(list) == 0 {
		return nil, nil
	}
	if s.Machine == nil {
		out.Note = "No translation service is set up."
		return nil, nil
	}
	answer, err := s.Machine.Translate(ctx, request(o, o.written.Language, o.copy.Language, texts(list)))
	if err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		out.Note = sentence(err)
		return nil, nil
	}
	out.Note = answer.Note
	var filled []store.Filled
	for i, l := range list {
		if text, ok := usable(answer.Lines[i]); ok {
			filled = append(filled, store.Filled{Target: copies.Target{
				Original: l, Text: text, Source: copies.Machine, By: "the translation service", At: s.Now(),
			}})
		}
	}
	out.Machine = len(filled)
	return filled, nil
}

// usable is what the service said, if it can be kept.
func usable(said *string) (string, bool) {
	if said == nil || len(*said) > lines.LongestTarget {
		return "", false
	}
	text := lines.CleanTarget(*said)
	return text, text != ""
}

func texts(list []lines.Line) []string {
	out := make([]string, len(list))
	for i, l := range list {
		out[i] = l.Text
	}
	return out
}

// request asks for lines, with the terms of the glossary that stand in them.
func request(o open, from, to string, asked []string) carrier.TranslationRequest {
	r := carrier.TranslationRequest{From: from, To: to, Lines: asked}
	for _, text := range asked {
		for _, t := range o.examiner.Applying(text, to) {
			term := carrier.TranslationTerm{Term: t.Term, Says: t.Says}
			if !slices.Contains(r.Terms, term) {
				r.Terms = append(r.Terms, term)
			}
		}
	}
	return r
}

// sentence begins an error of ours with a capital and ends it with a full stop.
func sentence(err error) string {
	text := err.Error()
	return strings.ToUpper(text[:1]) + text[1:] + "."
}

// Back is what a target says in the language of the original, and what differs.
type Back struct {
	Text       string
	Difference []copies.Piece
}

// ReadBack lets the service translate the target of a line back.
func (s *Service) ReadBack(ctx context.Context, by access.Principal, id int64, language, key string) (Back, error) {
	o, err := s.open(ctx, by, id, language)
	if err != nil {
		return Back{}, err
	}
	target, ok := o.copy.Targets[key]
	if !ok || target.Text == "" {
		return Back{}, fmt.Errorf("%w: there is nothing to read back in this line", ErrUnfit)
	}
	if s.Machine == nil {
		return Back{}, fmt.Errorf("%w: no translation service is set up", ErrUnfit)
	}
	answer, err := s.Machine.Translate(ctx, request(o, o.copy.Language, o.written.Language, []string{target.Text}))
	if err != nil {
		return Back{}, err
	}
	text, ok := usable(answer.Lines[0])
	if !ok {
		return Back{}, fmt.Errorf("%w: the translation service cannot read this line back. %s", ErrUnfit, answer.Note)
	}
	return Back{Text: text, Difference: copies.Difference(target.Original.Text, text)}, nil
}

// Suggestion is a remembered line that is like one that is asked for.
type Suggestion struct {
	store.Recalled
	Likeness   int // in hundredths
	Difference []copies.Piece
}

const mostSuggestions = 5

// Suggest offers remembered lines that are like a line, the likest first.
func (s *Service) Suggest(
	ctx context.Context, by access.Principal, id int64, language, key string,
) ([]Suggestion, error) {
	o, err := s.open(ctx, by, id, language)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(o.lines, func(l lines.Standing) bool { return l.Key() == key })
	if i < 0 {
		return nil, store.ErrNotFound
	}
	line := o.lines[i].Line
	candidates, err := s.Store.LikeLines(ctx, o.written.Language, o.copy.Language, line.Text)
	if err != nil {
		return nil, err
	}
	originals := make([]string, len(candidates))
	for i, c := range candidates {
		originals[i] = c.Original
	}
	likest := copies.Likest(line.Text, originals)
	likest = likest[:min(len(likest), mostSuggestions+1)] // the line itself may be among them
	ids := make([]int64, len(likest))
	for i, l := range likest {
		ids[i] = candidates[l.At].ID
	}
	targets, err := s.Store.Targets(ctx, ids, o.copy.Language)
	if err != nil {
		return nil, err
	}
	var list []Suggestion
	for i, l := range likest {
		for _, r := range targets[ids[i]] {
			if r.Original.Key() != key && len(list) < mostSuggestions {
				list = append(list, Suggestion{r, l.Likeness, copies.Difference(r.Original.Text, line.Text)})
			}
		}
	}
	return list, nil
}
