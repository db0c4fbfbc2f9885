package writing

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/link"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/reading"
	"upperlantern/internal/store"
)

type sayingView struct {
	Reader string    `json:"reader"`
	Text   string    `json:"text"`
	At     time.Time `json:"at"`
}

type readingView struct {
	ID          int64      `json:"id"`
	Language    string     `json:"language" doc:"BCP 47"`
	LanguageSay string     `json:"languageName"`
	Name        string     `json:"name"`
	AskedAt     time.Time  `json:"askedAt"`
	Until       time.Time  `json:"until"`
	OpenedAt    *time.Time `json:"openedAt,omitempty"`
	DoneAt      *time.Time `json:"doneAt,omitempty"`
	State       string     `json:"state" enum:"asked,reading,done,expired,withdrawn"`
	Read        int        `json:"read" doc:"Lines of which they said something"`
	Lines       int        `json:"lines"`
	Others      int        `json:"others" doc:"Lines of which they say otherwise than the copy"`
	Remark      string     `json:"remark"`
	Request     int64      `json:"request" doc:"The message that asks them; 0 while there is none"`
	Path        string     `json:"path" doc:"Of their page, to give to them by hand; empty for whoever may not write"`
	Problem     string     `json:"problem,omitempty" doc:"Why the request did not leave"`
}

type readerView struct {
	Person  roster.PersonID `json:"person,omitempty"`
	Account int64           `json:"account,omitempty"`
	Name    string          `json:"name"`
	Detail  string          `json:"detail" doc:"The language that they read themselves, or what they do here"`
}

type readersView struct {
	Set     bool         `json:"set" doc:"An attribute says who reads which languages"`
	Readers []readerView `json:"readers" doc:"Who reads this language for the organisation, then the accounts"`
}

func (s *Area) readingRoutes(api huma.API) {
	const path = "/messages/{id}/copies/{language}"
	route.Get(api, path+"/readers", "readers", "Who could be asked to read a copy", s.readers, access.Write)
	route.Post(api, path+"/readings", "ask-reading", "Ask people to read a copy", s.askReading, access.Write)
	route.Get(
		api, "/messages/{id}/readings", "readings", "Who was asked to read copies, and how far they are",
		s.readings, access.Write, access.ReadRecords,
	)
	route.Del(
		api, "/messages/{id}/readings/{reading}", "withdraw-reading", "Take a reading back",
		s.withdrawReading, access.Write,
	)
	route.Get(api, "/reading/{token}", "visit-reading", "What a reader sees", s.visitReading)
	route.Add(
		api, route.New(http.MethodPut, "/reading/{token}", "say-reading", "What a reader says").Small(), s.sayReading,
	)
}

func (s *Area) readers(ctx context.Context, in *CopyPath) (*route.Body[readersView], error) {
	known, accounts, set, err := s.Reading.Known(ctx, route.By(ctx), in.ID, in.Language)
	out := readersView{Set: set, Readers: []readerView{}}
	for _, p := range known {
		out.Readers = append(out.Readers, readerView{Person: p.ID, Name: p.Name(), Detail: roster.LanguageName(p.Language)})
	}
	for _, a := range accounts {
		out.Readers = append(out.Readers, readerView{Account: a.ID, Name: a.Name, Detail: a.Duty})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) askReading(ctx context.Context, in *struct {
	CopyPath
	Body struct {
		People   []roster.PersonID `json:"people,omitempty" maxItems:"20"`
		Accounts []int64           `json:"accounts,omitempty" maxItems:"20"`
		Until    time.Time         `json:"until" doc:"Until when their links work, 30 days ahead at most"`
	}
}) (*route.Body[[]readingView], error) {
	var readers []reading.Reader
	for _, id := range in.Body.People {
		readers = append(readers, reading.Reader{Person: id})
	}
	for _, id := range in.Body.Accounts {
		readers = append(readers, reading.Reader{Account: id})
	}
	asked, err := s.Reading.Ask(ctx, route.By(ctx), in.ID, in.Language, readers, in.Body.Until, route.Site(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := make([]readingView, len(asked))
	for i, a := range asked {
		out[i] = s.viewReading(reading.Progress{Reading: a.Reading, Path: a.Path})
		out[i].Problem = a.Problem
	}
	return route.Answer(out), nil
}

func (s *Area) viewReading(p reading.Progress) readingView {
	v := readingView{
		ID: p.ID, Language: p.Language, LanguageSay: roster.LanguageName(p.Language), Name: p.Name, AskedAt: p.AskedAt,
		Until: p.Until, OpenedAt: moment(p.OpenedAt), DoneAt: moment(p.DoneAt), Read: p.Read, Lines: p.Lines,
		Others: p.Others, Remark: p.Remark, Request: p.Request, Path: p.Path,
	}
	switch {
	case !p.WithdrawnAt.IsZero():
		v.State, v.Path = "withdrawn", ""
	case !p.DoneAt.IsZero():
		v.State = "done"
	case !p.Open(s.Now()):
		v.State = "expired"
	case !p.OpenedAt.IsZero():
		v.State = "reading"
	default:
		v.State = "asked"
	}
	return v
}

func moment(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

func (s *Area) readings(ctx context.Context, in *struct {
	ID int64 `path:"id"`
}) (*route.Body[[]readingView], error) {
	list, err := s.Reading.List(ctx, route.By(ctx), in.ID)
	out := make([]readingView, len(list))
	for i, p := range list {
		if out[i] = s.viewReading(p); !route.By(ctx).May(access.Write) {
			out[i].Path = "" // it lets its holder write
		}
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) withdrawReading(ctx context.Context, in *struct {
	ID      int64 `path:"id"`
	Reading int64 `path:"reading"`
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Reading.Withdraw(ctx, route.By(ctx), in.ID, in.Reading))
}

type readingVisitView struct {
	Organisation string            `json:"organisation"`
	Name         string            `json:"name" doc:"Of the reader"`
	Words        phrase.Words      `json:"words" doc:"The page's words in their language"`
	From         string            `json:"from" doc:"The language of the original, BCP 47"`
	FromName     string            `json:"fromName" doc:"In the page's words"`
	Language     string            `json:"language" doc:"Of the copy, BCP 47"`
	LanguageName string            `json:"languageName"`
	Rtl          bool              `json:"rtl" doc:"The copy is written from right to left"`
	Until        string            `json:"until" doc:"The last day, in the page's words"`
	Over         bool              `json:"over" doc:"The message was sent: nothing more can be said"`
	Done         bool              `json:"done"`
	Remark       string            `json:"remark"`
	Lines        []readingLineView `json:"lines"`
	Gone         []string          `json:"gone" doc:"Keys of lines that were said and are no longer in the message"`
}

type readingLineView struct {
	Key      string              `json:"key"`
	Original string              `json:"original" doc:"With places as numbers: {1}, {2}…{/2}"`
	Places   []lines.Placeholder `json:"places"`
	Target   string              `json:"target" doc:"Empty while it is missing"`
	Said     string              `json:"said" doc:"How they say that it is right; empty while they said nothing"`
	Own      bool                `json:"own" doc:"What they said is in their own words"`
}

// ReadingToken is a reader's link.
type ReadingToken struct {
	Token string `path:"token" maxLength:"100"`
}

// readingProblem answers a link that does not work with words that its holder may not
// read; the page says it in theirs.
func (s *Area) readingProblem(ctx context.Context, err error) error {
	for _, ended := range []error{link.ErrExpired, link.ErrNotOurs, store.ErrNotFound} {
		if errors.Is(err, ended) {
			return huma.Error404NotFound("This link no longer works. Ask for a new one.")
		}
	}
	return s.Problem(ctx, err)
}

func (s *Area) visitReading(ctx context.Context, in *ReadingToken) (*route.Body[readingVisitView], error) {
	v, err := s.Reading.Visit(ctx, in.Token)
	if err != nil {
		return nil, s.readingProblem(ctx, err)
	}
	return route.Answer(viewVisit(v, nil)), nil
}

func viewVisit(v reading.Visit, gone []string) readingVisitView {
	words := phrase.In(v.Reads, v.Reading.Language, v.Organisation.Language)
	out := readingVisitView{
		Organisation: v.Organisation.Name, Name: v.Reading.Name, Words: words, From: v.From,
		FromName: phrase.LanguageName(words.Tag, v.From), Language: v.Reading.Language,
		LanguageName: phrase.LanguageName(words.Tag, v.Reading.Language), Rtl: phrase.RightToLeft(v.Reading.Language),
		Until: phrase.Date(words.Tag, reading.LastDay(v.Organisation, v.Until)), Over: v.Over, Done: !v.DoneAt.IsZero(),
		Remark: v.Remark,
		Lines:  make([]readingLineView, len(v.Lines)), Gone: append([]string{}, gone...),
	}
	for i, l := range v.Lines {
		said := v.Said[l.Key()].Text
		out.Lines[i] = readingLineView{
			Key: l.Key(), Original: l.Text, Places: l.Places, Target: l.Target.Text, Said: said,
			Own: said != "" && (said != l.Target.Text || l.Target.By == v.Reading.Name),
		}
	}
	return out
}

type sayingBody struct {
	Key  string `json:"key" maxLength:"32"`
	Seen string `json:"seen" maxLength:"8000" doc:"What they had before them"`
	Text string `json:"text" maxLength:"8000" doc:"How it is right"`
}

func (s *Area) sayReading(ctx context.Context, in *struct {
	ReadingToken
	Body struct {
		Lines  []sayingBody `json:"lines" maxItems:"100"`
		Remark string       `json:"remark,omitempty" maxLength:"2000"`
		Done   bool         `json:"done,omitempty" doc:"They are done"`
	}
}) (*route.Body[readingVisitView], error) {
	says := make([]reading.Say, len(in.Body.Lines))
	for i, l := range in.Body.Lines {
		says[i] = reading.Say{Key: l.Key, Seen: l.Seen, Text: l.Text}
	}
	v, gone, err := s.Reading.Hear(ctx, in.Token, says, in.Body.Remark, in.Body.Done)
	if err != nil {
		return nil, s.readingProblem(ctx, err)
	}
	return route.Answer(viewVisit(v, gone)), nil
}
