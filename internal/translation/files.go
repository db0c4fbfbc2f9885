package translation

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/exchange"
	"upperlantern/internal/store"
)

// XLIFF is a copy as a file for translators, with what each place stands for.
func (s *Service) XLIFF(ctx context.Context, by access.Principal, id int64, language string) ([]byte, error) {
	c, err := s.Open(ctx, by, id, language)
	if err != nil {
		return nil, err
	}
	x := exchange.XLIFF{File: fmt.Sprint(id), From: c.From, To: c.Language}
	for _, l := range c.Lines {
		u := exchange.XLIFFUnit{ID: l.Key(), Source: l.Line, Target: l.Target.Text, State: exchange.Initial, Notes: notes(l)}
		switch {
		case l.Target.Checked():
			u.State = exchange.Reviewed
		case u.Target != "":
			u.State = exchange.Translated
		}
		x.Units = append(x.Units, u)
	}
	return exchange.WriteXLIFF(x), nil
}

// mostLanguages is how many languages travel together.
const mostLanguages = 50

// XLIFFs are copies in several languages as files for translators, zipped: an XLIFF file
// has one target language (XLIFF 2.1 §4.2.2.1).
func (s *Service) XLIFFs(ctx context.Context, by access.Principal, id int64, languages []string) ([]byte, error) {
	if len(languages) == 0 || len(languages) > mostLanguages {
		return nil, fmt.Errorf("%w: choose 1 to %d languages", ErrUnfit, mostLanguages)
	}
	files := make([]exchange.Bundled, len(languages))
	for i, language := range languages {
		content, err := s.XLIFF(ctx, by, id, language)
		if err != nil {
			return nil, err
		}
		files[i] = exchange.Bundled{Name: "copy." + language + ".xlf", Content: content}
	}
	return exchange.WriteBundle(files)
}

// TakenIn is what a file in a language came to.
type TakenIn struct {
	Language string
	Taken
}

// TakeXLIFFs takes the lines of files that came back, one or a zipped bundle, each into
// the copy of its language; see TakeXLIFF. All are read before the first is taken.
func (s *Service) TakeXLIFFs(
	ctx context.Context, by access.Principal, id int64, content []byte, checked bool,
) ([]TakenIn, error) {
	files, err := exchange.ReadXLIFFs(content)
	if err != nil {
		return nil, err
	}
	opened := make([]open, len(files))
	for i, x := range files {
		if opened[i], err = s.open(ctx, by, id, x.To); err != nil {
			return nil, err
		}
	}
	list := make([]TakenIn, len(files))
	for i, x := range files {
		list[i].Language = opened[i].copy.Language
		if list[i].Taken, err = s.take(ctx, by, opened[i], x, checked); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// notes say where a line stands, and how its terms are said.
func notes(l Line) []string {
	where := make([]string, len(l.Faces))
	for i, f := range l.Faces {
		where[i] = string(f)
	}
	list := []string{"in: " + strings.Join(where, ", ")}
	for _, t := range l.Terms {
		list = append(list, t.Term+" = "+t.Says)
	}
	return list
}

// Taken is what a file of translators came to, line by line.
type Taken struct {
	Lines   int      // taken into the copy
	Same    int      // as they were
	Gone    []string // no longer in the message
	Changed []string // whose original in the file is not the present one
}

// TakeXLIFF takes the lines of a file that came back. Each is matched by itself: what is
// of an older original is told and left. With checked, lines that the file calls
// reviewed or final count as checked by whoever gives it.
func (s *Service) TakeXLIFF(
	ctx context.Context, by access.Principal, id int64, language string, content []byte, checked bool,
) (Taken, error) {
	var out Taken
	o, err := s.open(ctx, by, id, language)
	if err != nil {
		return out, err
	}
	x, err := exchange.ReadXLIFF(content)
	if err != nil {
		return out, err
	}
	return s.take(ctx, by, o, x, checked)
}

func (s *Service) take(
	ctx context.Context, by access.Principal, o open, x exchange.XLIFF, checked bool,
) (out Taken, err error) {
	if to, ok := phrase.Tag(x.To); !ok || to != o.copy.Language {
		return out, fmt.Errorf("%w: the file is in “%s”, and this copy is in “%s”", ErrUnfit, x.To, o.copy.Language)
	}
	var filled []store.Filled
	for _, u := range x.Units {
		text := lines.CleanTarget(u.Target)
		if text == "" {
			continue
		}
		at := slices.IndexFunc(o.lines, func(l lines.Standing) bool { return l.Key() == u.ID })
		switch {
		case at < 0:
			out.Gone = append(out.Gone, shortened(lines.Words(u.Source.Text)))
		case o.lines[at].Text != u.Source.Text:
			out.Changed = append(out.Changed, shortened(lines.Words(u.Source.Text)))
		default:
			reviewed := checked && (u.State == exchange.Reviewed || u.State == exchange.Final)
			was := o.copy.Targets[u.ID]
			if was.Text == text && (was.Checked() || !reviewed) {
				out.Same++
				continue
			}
			f, err := o.filled(Change{Key: u.ID, Was: was.Text, Text: text, Checked: reviewed}, by.Name, s.Now())
			if err != nil {
				return out, err
			}
			filled = append(filled, f)
		}
	}
	out.Lines = len(filled)
	return out, s.fill(ctx, by, o, filled)
}
