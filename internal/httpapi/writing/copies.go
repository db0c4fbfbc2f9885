package writing

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
	"upperlantern/internal/wording"
)

// CopyPath names a copy of a message.
type CopyPath struct {
	ID       int64  `path:"id"`
	Language string `path:"language" maxLength:"40" doc:"BCP 47"`
}

type copyView struct {
	Message  int64        `json:"message"`
	Title    string       `json:"title"`
	Editable bool         `json:"editable" doc:"The message is still a draft"`
	From     string       `json:"from" doc:"The language of the original, BCP 47"`
	Language string       `json:"language"`
	Name     string       `json:"name"`
	Rtl      bool         `json:"rtl" doc:"Written from right to left"`
	State    copies.State `json:"state"`
	Filled   int          `json:"filled"`
	Checked  int          `json:"checked"`
	Doubtful int          `json:"doubtful"`
	Lines    []lineView   `json:"lines"`
}

type lineView struct {
	Key       string              `json:"key"`
	Original  string              `json:"original" doc:"With places as numbers: {1}, {2}…{/2}"`
	Places    []lines.Placeholder `json:"places" doc:"What the numbers stand for, from 1"`
	Faces     []lines.Face        `json:"faces" doc:"Where it stands"`
	Target    string              `json:"target" doc:"Empty while it is missing"`
	Source    copies.Source       `json:"source,omitempty"`
	By        string              `json:"by,omitempty"`
	At        *time.Time          `json:"at,omitempty"`
	CheckedBy string              `json:"checkedBy,omitempty"`
	CheckedAt *time.Time          `json:"checkedAt,omitempty"`
	Doubts    []doubtView         `json:"doubts"`
	Terms     []termView          `json:"terms" doc:"Of the glossary, that stand in it"`
	Was       *staleView          `json:"was,omitempty" doc:"What the line was before its original changed"`
	Others    []sayingView        `json:"others" doc:"Readers' words that stand beside it until somebody decides"`
}

type doubtView struct {
	Code     copies.Code `json:"code"`
	Sentence string      `json:"sentence"`
}

type termView struct {
	Term string `json:"term"`
	Says string `json:"says"`
	Note string `json:"note"`
}

type staleView struct {
	Target     string         `json:"target"`
	Difference []copies.Piece `json:"difference" doc:"Between the old original and the new one"`
}

func (s *Area) copyRoutes(api huma.API) {
	const path = "/messages/{id}/copies/{language}"
	route.Get(
		api, path, "copy", "A message in another language, line against line",
		s.copy, access.Write, access.ReadRecords,
	)
	route.Put(api, path, "write-copy", "Write lines of a copy, or check them", s.writeCopy, access.Write)
	route.Del(api, path, "delete-copy", "Forget a copy", s.deleteCopy, access.Write)
	route.Post(
		api, path+"/draft", "draft-copy", "Fill missing lines from the memory and the translation service",
		s.draftCopy, access.Write,
	)
	route.Get(
		api, path+"/lines/{key}/back", "read-back", "What a target says in the language of the original",
		s.readBack, access.Write,
	)
	route.Get(
		api, path+"/lines/{key}/like", "like-lines", "Remembered lines that are like one",
		s.likeLines, access.Write,
	)
}

func (s *Area) copy(ctx context.Context, in *CopyPath) (*route.Body[copyView], error) {
	c, err := s.Translation.Open(ctx, route.By(ctx), in.ID, in.Language)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(viewCopy(c)), nil
}

func viewCopy(c translation.Copy) copyView {
	v := copyView{
		Message: c.Message.ID, Title: c.Message.Title, Editable: c.Message.State == store.Draft, From: c.From,
		Language: c.Language, Name: roster.LanguageName(c.Language), Rtl: phrase.RightToLeft(c.Language), State: c.State,
		Filled: c.Filled, Checked: c.Checked, Doubtful: c.Doubtful, Lines: make([]lineView, len(c.Lines)),
	}
	for i, l := range c.Lines {
		v.Lines[i] = viewLine(l)
	}
	return v
}

func viewLine(l translation.Line) lineView {
	v := lineView{
		Key: l.Key(), Original: l.Text, Places: l.Places, Faces: l.Faces, Target: l.Target.Text, Doubts: []doubtView{},
		Terms: []termView{}, Others: []sayingView{},
	}
	if l.Target.Text != "" {
		v.Source, v.By, v.At = l.Target.Source, l.Target.By, &l.Target.At
	}
	if l.Target.Checked() {
		v.CheckedBy, v.CheckedAt = l.Target.CheckedBy, &l.Target.CheckedAt
	}
	for _, d := range l.Doubts {
		v.Doubts = append(v.Doubts, doubtView{Code: d.Code, Sentence: wording.Doubt(d)})
	}
	for _, t := range l.Terms {
		v.Terms = append(v.Terms, termView{Term: t.Term, Says: t.Says, Note: t.Note})
	}
	for _, o := range l.Others {
		v.Others = append(v.Others, sayingView{Reader: o.Reader, Text: o.Text, At: o.At})
	}
	if l.Was != nil {
		v.Was = &staleView{Target: l.Was.Text, Difference: copies.Difference(l.Was.Original.Text, l.Text)}
	}
	return v
}

func (s *Area) writeCopy(ctx context.Context, in *struct {
	CopyPath
	Body struct {
		Lines []struct {
			Key     string `json:"key" maxLength:"32"`
			Was     string `json:"was" maxLength:"4000" doc:"The target that was seen; another one meanwhile is a conflict"`
			Text    string `json:"text" maxLength:"8000"`
			Checked bool   `json:"checked"`
		} `json:"lines" minItems:"1" maxItems:"2000"`
	}
}) (*route.Body[copyView], error) {
	changes := make([]translation.Change, len(in.Body.Lines))
	for i, l := range in.Body.Lines {
		changes[i] = translation.Change{Key: l.Key, Was: l.Was, Text: l.Text, Checked: l.Checked}
	}
	c, err := s.Translation.Write(ctx, route.By(ctx), in.ID, in.Language, changes)
	var conflict *store.ConflictError
	if errors.As(err, &conflict) {
		return nil, huma.Error409Conflict(
			fmt.Sprintf("%s wrote “%s” here meanwhile. What you wrote stays on your screen.", conflict.By, conflict.Is),
		)
	}
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(viewCopy(c)), nil
}

func (s *Area) deleteCopy(ctx context.Context, in *CopyPath) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Translation.Drop(ctx, route.By(ctx), in.ID, in.Language))
}

type draftedView struct {
	Memory   int    `json:"memory" doc:"Lines that were checked before"`
	Adapted  int    `json:"adapted" doc:"Lines of the memory with other numbers, times, dates or fields"`
	Machine  int    `json:"machine" doc:"Lines of the translation service"`
	Withheld int    `json:"withheld" doc:"Lines that name somebody and were not sent to the service"`
	Left     int    `json:"left" doc:"Lines that are still missing"`
	Note     string `json:"note" doc:"Why the service could not help"`
}

func (s *Area) draftCopy(ctx context.Context, in *struct {
	CopyPath
	Naming bool `query:"naming" doc:"Lines that name somebody go to the service too"`
}) (*route.Body[draftedView], error) {
	o, err := s.Translation.Draft(ctx, route.By(ctx), in.ID, in.Language, in.Naming)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(draftedView{
		Memory: o.Memory, Adapted: o.Adapted, Machine: o.Machine, Withheld: o.Withheld, Left: o.Left, Note: o.Note,
	}), nil
}

// LinePath names a line of a copy.
type LinePath struct {
	CopyPath
	Key string `path:"key" pattern:"^[0-9a-f]{32}$"`
}

type backView struct {
	Text       string         `json:"text"`
	Difference []copies.Piece `json:"difference" doc:"Between the original and what was read back"`
}

func (s *Area) readBack(ctx context.Context, in *LinePath) (*route.Body[backView], error) {
	back, err := s.Translation.ReadBack(ctx, route.By(ctx), in.ID, in.Language, in.Key)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(backView{Text: back.Text, Difference: back.Difference}), nil
}

type likeView struct {
	Original   string         `json:"original"`
	Target     string         `json:"target"`
	Likeness   int            `json:"likeness" doc:"In hundredths"`
	Difference []copies.Piece `json:"difference" doc:"Between the remembered original and this one"`
	CheckedBy  string         `json:"checkedBy"`
	CheckedAt  time.Time      `json:"checkedAt"`
}

type likeLinesView struct {
	Lines []likeView `json:"lines" doc:"The likest first"`
}

func (s *Area) likeLines(ctx context.Context, in *LinePath) (*route.Body[likeLinesView], error) {
	list, err := s.Translation.Suggest(ctx, route.By(ctx), in.ID, in.Language, in.Key)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := likeLinesView{Lines: []likeView{}}
	for _, l := range list {
		out.Lines = append(out.Lines, likeView{
			Original: l.Original.Text, Target: l.Text, Likeness: l.Likeness, Difference: l.Difference,
			CheckedBy: l.CheckedBy, CheckedAt: l.CheckedAt,
		})
	}
	return route.Answer(out), nil
}
