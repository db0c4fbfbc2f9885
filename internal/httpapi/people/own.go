package people

import (
	"context"
	"errors"
	"net/http"
	"path/filepath"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/own"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desks"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/personal"
	"upperlantern/internal/store"
)

type ownView struct {
	Organisation string       `json:"organisation"`
	Name         string       `json:"name"`
	Words        phrase.Words `json:"words" doc:"The page's words in their language"`
	Zone         string       `json:"zone" doc:"Of the organisation, IANA"`
	Kept         string       `json:"kept" enum:"phone,browser,vehicle terminal," doc:"The page is kept on such a device"`
	Until        *time.Time   `json:"until,omitempty" doc:"The link holds; absent of a kept page"`
	At           time.Time    `json:"at" doc:"It was so"`
	Items        []ownItem    `json:"items" doc:"What they got, the newest first"`
	Others       []ownWords   `json:"others" doc:"What they wrote beside what answers any of it, the oldest first"`
}

type ownItem struct {
	ID         int64             `json:"id"`
	Subject    string            `json:"subject" doc:"Empty of a text"`
	Text       string            `json:"text"`
	Link       string            `json:"link,omitempty" doc:"That it leads to"`
	Language   string            `json:"language" doc:"BCP 47"`
	Rtl        bool              `json:"rtl"`
	Channel    roster.Channel    `json:"channel" doc:"By which they got it"`
	At         time.Time         `json:"at"`
	Desk       bool              `json:"desk" doc:"Somebody of the office answered them"`
	New        bool              `json:"new"`
	Foremost   bool              `json:"foremost" doc:"It interrupts, or belongs to a job of theirs"`
	Waits      bool              `json:"waits" doc:"On a terminal: it was not touched yet"`
	Emergency  bool              `json:"emergency"`
	Confirms   bool              `json:"confirms" doc:"They are asked to confirm that they know"`
	Confirmed  bool              `json:"confirmed"`
	Choices    []ownChoice       `json:"choices" doc:"The answers of its question"`
	Answer     int               `json:"answer" doc:"That they gave last; 0 for none"`
	Minutes    int               `json:"minutes"`
	Files      []attachment.File `json:"files"`
	WroteThere []ownWords        `json:"wrote" doc:"What they wrote back, the oldest first"`
}

type ownChoice struct {
	Number  int    `json:"number"`
	Words   string `json:"words"`
	Minutes bool   `json:"minutes" doc:"It says after how many"`
}

type ownWords struct {
	At    time.Time `json:"at"`
	Said  string    `json:"said"`
	Files []string  `json:"files" doc:"The names of those that came with it"`
}

type keptView struct {
	ID     int64     `json:"id"`
	Kind   string    `json:"kind"`
	Device string    `json:"device" doc:"What the roster calls a terminal"`
	Kept   time.Time `json:"kept"`
	Seen   time.Time `json:"seen" doc:"Opened last, to the hour"`
}

type ownPathView struct {
	Path string `json:"path" doc:"Of the kept page"`
}

type terminalView struct {
	Code string `json:"code" doc:"That somebody enters on the sheet of whose device it becomes"`
	Key  string `json:"key" doc:"Of the page that it becomes"`
	// Words are in the language of the browser.
	Words phrase.Words `json:"words"`
}

type OwnItemID struct {
	Token
	Item int64 `path:"item" minimum:"1"`
}

// ownRoutes are those of personal pages, and of those who keep them.
func (s *Area) ownRoutes(api huma.API) {
	route.Get(api, "/own/{token}", "own", "What the holder of a page got, and wrote", s.own)
	act := func(method, path, id, summary string) route.Route {
		return route.New(method, path, id, summary).Small()
	}
	route.Add(api, act(http.MethodPost, "/own/{token}/kept", "keep-own", "Keep the page on this device"), s.keepOwn)
	route.Add(api, act(http.MethodDelete, "/own/{token}", "end-own", "End a kept page"), s.endOwn)
	route.Add(api, act(http.MethodPost, "/own/{token}/words", "write-own", "Write to the office"), s.writeOwn)
	route.Add(api, route.New(
		http.MethodPost, "/own/{token}/files", "send-own-file", "Send a picture or a file to the office",
	).Takes(own.MostFile), s.sendOwnFile)
	route.Add(api, act(
		http.MethodPost, "/own/{token}/items/{item}/opened", "open-own", "A message was opened, or confirmed",
	), s.openOwn)
	route.Add(api, act(
		http.MethodPost, "/own/{token}/items/{item}/answer", "answer-own", "Answer the question of a message",
	), s.answerOwn)
	route.Add(api, route.New(
		http.MethodGet, "/own/{token}/items/{item}/files/{hash}", "own-file", "A file that came with a message",
	).Gives("application/octet-stream"), s.ownFile)
	route.Add(api, act(
		http.MethodPost, "/terminals", "terminal", "A vehicle terminal that waits to be paired",
	), s.terminal)
	route.Get(api, "/people/{id}/pages", "kept-pages", "The personal pages that somebody keeps", s.pages, access.EditPeople)
	route.Add(api, route.New(
		http.MethodDelete, "/people/{id}/pages/{page}", "end-page", "End a page that somebody keeps", access.EditPeople,
	), s.endPage)
	route.Post(
		api, "/people/{id}/terminals", "pair", "Make the terminal that shows a code a device of theirs", s.pair,
		access.EditPeople,
	)
}

// ownProblem answers what the holder of a page can cause.
func (s *Area) ownProblem(ctx context.Context, err error) error {
	switch {
	case errors.Is(err, personal.ErrNotTheirs):
		return huma.Error404NotFound("This message is not on the page any more.")
	case errors.Is(err, personal.ErrTooMuch):
		return huma.Error429TooManyRequests("That was much in a short time. What you wrote is still here; send it in some minutes.")
	case errors.Is(err, personal.ErrKind):
		return huma.Error422UnprocessableEntity("Nothing was sent: " + err.Error() + ".")
	case errors.Is(err, personal.ErrEmpty):
		return huma.Error422UnprocessableEntity("There is nothing to send.")
	case errors.Is(err, editing.ErrPages):
		return huma.Error409Conflict("The page is kept on too many devices already. End one of them first.")
	}
	return s.visitProblem(ctx, err)
}

func (s *Area) own(ctx context.Context, in *Token) (*route.Body[ownView], error) {
	p, err := s.Personal.Page(ctx, in.Token)
	if err != nil {
		return nil, s.ownProblem(ctx, err)
	}
	o := p.Organisation
	v := ownView{
		Organisation: o.Name, Name: p.Sheet.First(), Words: phrase.In(p.Sheet.Language, o.Language), Zone: o.TimeZone,
		Kept: p.Kept.Kind, At: s.Now(), Items: make([]ownItem, len(p.Items)), Others: viewWrote(p.Others),
	}
	if !p.Until.IsZero() {
		v.Until = &p.Until
	}
	for i, item := range p.Items {
		v.Items[i] = viewOwnItem(item)
		if item.Subject == o.Name { // of a push that has none
			v.Items[i].Subject = ""
		}
	}
	return route.Answer(v), nil
}

func viewOwnItem(i own.Item) ownItem {
	v := ownItem{
		ID: i.Message, Subject: i.Subject, Text: i.Body, Link: i.Link, Language: i.Language,
		Rtl: phrase.RightToLeft(i.Language), Channel: i.Channel, At: i.Left, Desk: i.Desk, New: i.New,
		Foremost: i.Foremost, Waits: i.Waits, Emergency: i.Urgency == roster.Emergency, Confirms: i.Confirms,
		Confirmed: i.Confirmed, Choices: []ownChoice{}, Answer: i.Answer, Minutes: i.Minutes,
		Files: append([]attachment.File{}, i.Parts.Files...), WroteThere: viewWrote(i.Wrote),
	}
	for n, words := range i.Parts.Choices {
		c, ok := i.Question.Choice(n + 1)
		if ok {
			v.Choices = append(v.Choices, ownChoice{n + 1, words, c.Means == message.Minutes})
		}
	}
	return v
}

func viewWrote(list []own.Wrote) []ownWords {
	out := make([]ownWords, len(list))
	for i, w := range list {
		out[i] = ownWords{w.At, w.Said, []string{}}
		for _, f := range w.Files {
			out[i].Files = append(out[i].Files, f.Name)
		}
	}
	return out
}

func (s *Area) keepOwn(ctx context.Context, in *struct {
	Token
	Body struct {
		Kind string `json:"kind" enum:"phone,browser"`
	}
}) (*route.Body[ownPathView], error) {
	key, err := s.Editor.Keep(ctx, in.Token.Token, in.Body.Kind)
	return route.Answer(ownPathView{ownPath + key}), s.ownProblem(ctx, err)
}

func (s *Area) endOwn(ctx context.Context, in *Token) (*struct{}, error) {
	return nil, s.ownProblem(ctx, s.Editor.EndOwn(ctx, in.Token))
}

func (s *Area) writeOwn(ctx context.Context, in *struct {
	Token
	Body struct {
		Key  string `json:"key" minLength:"8" maxLength:"64" doc:"Made up by the page: what comes twice counts once"`
		Item int64  `json:"item" minimum:"0" doc:"The message that it answers; 0 for none"`
		Text string `json:"text" maxLength:"20000"`
	}
}) (*struct{}, error) {
	w := personal.Written{Key: in.Body.Key, Item: in.Body.Item, Text: in.Body.Text}
	return nil, s.ownProblem(ctx, s.Personal.Write(ctx, in.Token.Token, w))
}

func (s *Area) sendOwnFile(ctx context.Context, in *struct {
	Token
	Key     string `query:"key" required:"true" minLength:"8" maxLength:"64" doc:"Made up by the page: what comes twice counts once"`
	Item    int64  `query:"item" minimum:"0" doc:"The message that it answers; 0 for none"`
	Name    string `query:"name" required:"true" minLength:"1" maxLength:"1000"`
	RawBody []byte `contentType:"application/octet-stream"`
}) (*struct{}, error) {
	file := incoming.File{Name: filepath.Base(in.Name), Content: in.RawBody}
	w := personal.Written{Key: in.Key, Item: in.Item, File: &file}
	return nil, s.ownProblem(ctx, s.Personal.Write(ctx, in.Token.Token, w))
}

func (s *Area) openOwn(ctx context.Context, in *struct {
	OwnItemID
	Body struct {
		Confirms bool `json:"confirms,omitempty" doc:"They say that they know"`
	}
}) (*struct{}, error) {
	return nil, s.ownProblem(ctx, s.Personal.Open(ctx, in.Token.Token, in.Item, in.Body.Confirms))
}

func (s *Area) answerOwn(ctx context.Context, in *struct {
	OwnItemID
	Body struct {
		Number  int `json:"number" minimum:"1" maximum:"9"`
		Minutes int `json:"minutes,omitempty" minimum:"0" maximum:"1440"`
	}
}) (*struct{}, error) {
	err := s.Personal.Answer(ctx, in.Token.Token, in.Item, asking.Given{Number: in.Body.Number, Minutes: in.Body.Minutes})
	if errors.Is(err, desks.ErrRefused) {
		return nil, s.Problem(ctx, err)
	}
	return nil, s.ownProblem(ctx, err)
}

func (s *Area) ownFile(ctx context.Context, in *struct {
	OwnItemID
	Hash string `path:"hash" pattern:"^[0-9a-f]{64}$"`
}) (*route.File, error) {
	f, content, err := s.Personal.File(ctx, in.Token.Token, in.Item, in.Hash)
	if err != nil {
		return nil, s.ownProblem(ctx, err)
	}
	return route.Attached(f.Name, content), nil
}

func (s *Area) terminal(ctx context.Context, in *struct {
	Accept string `header:"Accept-Language" maxLength:"200"`
}) (*route.Body[terminalView], error) {
	code, key, err := s.Editor.Terminal(ctx, route.Network(ctx))
	if errors.Is(err, store.ErrConflict) {
		return nil, huma.Error429TooManyRequests("Too many terminals wait here. Enter their codes, or wait 15 minutes.")
	}
	return route.Answer(terminalView{code, key, phrase.In(phrase.Accepted(in.Accept)...)}), s.Problem(ctx, err)
}

func (s *Area) pages(ctx context.Context, in *PersonID) (*route.Body[[]keptView], error) {
	list, err := s.Editor.Pages(ctx, route.By(ctx), in.ID)
	out := make([]keptView, len(list))
	for i, k := range list {
		out[i] = keptView{ID: k.ID, Kind: k.Kind, Device: k.Device, Kept: k.Kept, Seen: k.Seen}
	}
	return route.Answer(out), s.personProblem(ctx, err)
}

func (s *Area) endPage(ctx context.Context, in *struct {
	PersonID
	Page int64 `path:"page"`
}) (*struct{}, error) {
	return nil, s.personProblem(ctx, s.Editor.EndPage(ctx, route.By(ctx), in.ID, in.Page))
}

func (s *Area) pair(ctx context.Context, in *struct {
	PersonID
	Body struct {
		Code string `json:"code" maxLength:"30" doc:"As somebody typed it"`
	}
}) (*route.Body[doneView], error) {
	done, err := s.Editor.Pair(ctx, route.By(ctx), in.ID, in.Body.Code)
	if errors.Is(err, editing.ErrCode) {
		return nil, huma.Error422UnprocessableEntity(
			"No terminal shows this code. A code can be entered for 15 minutes; the terminal shows the one that counts now.",
		)
	}
	return viewDone(done), s.personProblem(ctx, err)
}
