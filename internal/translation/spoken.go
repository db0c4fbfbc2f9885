package translation

import (
	"context"
	"fmt"

	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/phrase"
)

// Spoken is a plain text in another language.
type Spoken struct {
	Language string // BCP 47
	Text     string // "" while a line is missing
	Checked  bool   // a person checked every line of it
	Doubts   []copies.Doubt
	Withheld int    // lines that name somebody and were not sent to the service
	Note     string // why lines are missing; "" when none is
}

// Say says a plain text in another language, by the memory and then the translation
// service. What cannot be said whole is not said: there is no text that is half the
// original. A line that names somebody of the roster is not sent to the service unless
// naming says so.
func (s *Service) Say(ctx context.Context, from, to, text string, naming bool) (Spoken, error) {
	tag, ok := phrase.Tag(to)
	if !ok {
		return Spoken{}, fmt.Errorf("%w: %q is no language", ErrUnfit, to)
	}
	terms, err := s.Store.Terms(ctx)
	if err != nil {
		return Spoken{}, err
	}
	o := open{
		written: lines.Written{Content: message.Content{OwnText: true, Text: text}, Language: from},
		copy:    copies.Copy{Language: tag, Targets: map[string]copies.Target{}}, examiner: copies.Examiner{From: from},
	}
	o.lines = lines.Cut(o.written)
	for _, t := range terms {
		o.examiner.Terms = append(o.examiner.Terms, t.Term)
	}
	missing := make([]lines.Line, len(o.lines))
	for i, l := range o.lines {
		missing[i] = l.Line
	}
	var out Outcome
	filled, missing, err := s.recall(ctx, o, missing, &out)
	if err != nil {
		return Spoken{}, err
	}
	asked := missing
	if !naming {
		if asked, err = s.withoutNames(ctx, o, missing); err != nil {
			return Spoken{}, err
		}
	}
	said, err := s.ask(ctx, o, asked, &out)
	if err != nil {
		return Spoken{}, err
	}
	result := Spoken{Language: tag, Checked: true, Withheld: len(missing) - len(asked), Note: out.Note}
	for _, f := range append(filled, said...) {
		o.copy.Targets[f.Original.Key()] = f.Target
		result.Checked = result.Checked && f.Checked()
		result.Doubts = append(result.Doubts, o.examiner.Doubts(f.Original, f.Text, tag)...)
	}
	if len(o.copy.Targets) < len(o.lines) || len(o.lines) == 0 {
		return Spoken{Language: tag, Withheld: result.Withheld, Note: result.Note}, nil
	}
	result.Text = lines.Put(o.written, o.copy.Say).Text
	return result, nil
}
