package desks

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/job"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	service "upperlantern/internal/desks"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
	"upperlantern/internal/wording"
)

func (s *Area) manyRoutes(api huma.API) {
	route.Post(api, "/desks/{id}/many", "open-many", "Begin a thread with many, or find it", s.openMany)
	act := func(path, id, summary string) route.Route {
		return route.New(http.MethodPost, "/threads/{id}/"+path, id, summary).Small()
	}
	route.Add(api, act("weigh-all", "weigh-all", "What a text to everybody in a thread would come to"), s.weighAll)
	route.Add(api, act("say-to-all", "say-to-all", "Write to everybody in a thread; it can be taken back"), s.sayToAll)
	route.Add(api, act("name", "name-thread", "Give a thread with chosen people a name, or take it back"), s.name)
	route.Add(api, act("people", "choose-people", "Say who is in a thread with chosen people"), s.choose)
	route.Add(api, act("share", "share-thread", "Let all in a thread see what is said, or end that"), s.share)
	route.Del(api, "/threads/{id}", "delete-thread", "Delete a thread with chosen people", s.deleteThread)
	route.Get(api, "/threads/{id}/reached/{message}", "reached", "Whom something reached that went to many", s.reached)
}

type manyBody struct {
	With   desk.With         `json:"with" enum:"people,group,area,everybody,job"`
	People []roster.PersonID `json:"people,omitempty" maxItems:"500"`
	Group  roster.GroupID    `json:"group,omitempty" minimum:"0" doc:"Or a job"`
	Unit   roster.UnitID     `json:"unit,omitempty" minimum:"0"`
	Name   string            `json:"name,omitempty" maxLength:"120" doc:"Of one with chosen people; empty to call it after them"`
}

func (s *Area) openMany(ctx context.Context, in *struct {
	DeskID
	Body manyBody
}) (*route.Body[route.Made], error) {
	b := in.Body
	id, err := s.Desks.OpenMany(ctx, in.ID, service.Many{
		With: b.With, People: b.People, Group: b.Group, Unit: b.Unit, Name: b.Name,
	}, route.By(ctx))
	return route.Answer(route.Made{ID: id}), s.Problem(ctx, err)
}

type roundCopy struct {
	Language string   `json:"language" doc:"BCP 47"`
	Speaks   string   `json:"speaks"`
	People   int      `json:"people" doc:"Who read it"`
	Text     string   `json:"text" doc:"Empty when they get it as it is written"`
	Checked  bool     `json:"checked"`
	Doubts   []string `json:"doubts"`
	Note     string   `json:"note" doc:"Why there is none"`
	Withheld int      `json:"withheld" doc:"Lines that name somebody"`
}

type byReason struct {
	Reason string `json:"reason"`
	People int    `json:"people"`
}

type weighedAll struct {
	People  int         `json:"people" doc:"Who would get it"`
	LeftOut []byReason  `json:"leftOut" doc:"Who would not, by reason"`
	Texts   int         `json:"texts"`
	Emails  int         `json:"emails"`
	Calls   int         `json:"calls"`
	Pushes  int         `json:"pushes"`
	Parts   int         `json:"parts" doc:"Of the longest text"`
	Cost    string      `json:"cost" doc:"Empty for nothing"`
	Waits   int         `json:"waits" doc:"Deliveries that wait for quiet hours to end"`
	Unseen  int         `json:"unseen" doc:"Who gets no email, and with it no files"`
	Copies  []roundCopy `json:"copies" doc:"By the languages that they read"`
}

func (s *Area) weighAll(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		Text   string            `json:"text" maxLength:"10000"`
		Files  []attachment.File `json:"files,omitempty" maxItems:"20"`
		Naming bool              `json:"naming,omitempty"`
	}
}) (*route.Body[weighedAll], error) {
	words := service.ToAll{Text: in.Body.Text, Files: in.Body.Files}
	w, err := s.Desks.WeighAll(ctx, in.ID, words, in.Body.Naming, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(viewWeighed(w)), nil
}

func viewWeighed(w service.Weighed) weighedAll {
	p := w.Worked.Plan
	v := weighedAll{People: len(p.Recipients), Unseen: p.WithoutEmail(), LeftOut: []byReason{}, Copies: []roundCopy{}}
	for _, reason := range plan.Reasons {
		n := 0
		for _, l := range p.LeftOut {
			if l.Reason == reason {
				n++
			}
		}
		if n > 0 {
			v.LeftOut = append(v.LeftOut, byReason{reason.Sentence(), n})
		}
	}
	count := map[roster.Channel]*int{
		roster.Text: &v.Texts, roster.Email: &v.Emails, roster.Voice: &v.Calls, roster.Push: &v.Pushes,
	}
	var cost money.Amount
	for _, d := range p.Deliveries {
		*count[d.Channel]++
		v.Parts, cost = max(v.Parts, d.Count.Parts), cost+d.Cost
		if d.Quiet {
			v.Waits++
		}
	}
	if cost > 0 {
		v.Cost = cost.Format(p.Settings.Currency)
	}
	for _, c := range w.Copies {
		one := roundCopy{
			Language: c.Language, Speaks: c.Speaks, People: c.People, Text: c.Text, Checked: c.Checked, Doubts: []string{},
			Note: c.Note, Withheld: c.Withheld,
		}
		for _, d := range c.Doubts {
			one.Doubts = append(one.Doubts, wording.Doubt(d))
		}
		v.Copies = append(v.Copies, one)
	}
	return v
}

type saidAs struct {
	Language string `json:"language" maxLength:"40" doc:"BCP 47"`
	Text     string `json:"text" maxLength:"20000"`
}

type toAllBody struct {
	Text       string            `json:"text" maxLength:"10000"`
	Copies     []saidAs          `json:"copies,omitempty" maxItems:"50" doc:"As which it leaves to readers of other languages"`
	Files      []attachment.File `json:"files,omitempty" maxItems:"20" doc:"That go with emails; who gets none reads their names"`
	Seen       int64             `json:"seen,omitempty" minimum:"0" doc:"The last entry that was seen: an answer of a colleague since then refuses this one"`
	Interrupts bool              `json:"interrupts,omitempty" doc:"Pushes of it stay until they are touched"`
}

func (s *Area) sayToAll(ctx context.Context, in *struct {
	ThreadID
	Body toAllBody
}) (*route.Body[answerView], error) {
	words := service.ToAll{Text: in.Body.Text, Files: in.Body.Files, Seen: in.Body.Seen, Interrupts: in.Body.Interrupts}
	for _, c := range in.Body.Copies {
		words.Copies = append(words.Copies, store.Copied{Language: c.Language, Text: c.Text})
	}
	id, err := s.Desks.SayToAll(ctx, in.ID, words, route.By(ctx))
	return route.Answer(answerView{Message: id}), s.Problem(ctx, err)
}

func (s *Area) name(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		Name string `json:"name" maxLength:"120" doc:"Empty to call it after its people again"`
	}
}) (*struct{}, error) {
	return s.done(ctx, s.Desks.Rename(ctx, in.ID, in.Body.Name, route.By(ctx)))
}

func (s *Area) choose(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		People []roster.PersonID `json:"people" maxItems:"500"`
	}
}) (*struct{}, error) {
	return s.done(ctx, s.Desks.Choose(ctx, in.ID, in.Body.People, route.By(ctx)))
}

func (s *Area) share(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		Shared bool `json:"shared"`
	}
}) (*struct{}, error) {
	return s.done(ctx, s.Desks.Share(ctx, in.ID, in.Body.Shared, route.By(ctx)))
}

func (s *Area) deleteThread(ctx context.Context, in *ThreadID) (*struct{}, error) {
	return s.done(ctx, s.Desks.Delete(ctx, in.ID, route.By(ctx)))
}

// manyView is whom a thread with many is with.
type manyView struct {
	Named  bool           `json:"named" doc:"Somebody gave it its name"`
	Group  roster.GroupID `json:"group" doc:"Of a thread with a group or a job; 0 otherwise"`
	Unit   roster.UnitID  `json:"unit" doc:"Of a thread with an area; 0 otherwise"`
	Ended  bool           `json:"ended" doc:"Nothing more is said in it"`
	People []inThread     `json:"people" doc:"Those whom the account sees"`
	Beyond int            `json:"beyond" doc:"How many more there are"`
}

type inThread struct {
	ID     roster.PersonID `json:"id"`
	Name   string          `json:"name"`
	Speaks string          `json:"speaks"`
	Part   job.Part        `json:"part,omitempty" doc:"In a job"`
	By     roster.Channel  `json:"by,omitempty" doc:"By which the next word would reach them; absent when it would not"`
	Reason string          `json:"reason" doc:"Why not"`
	Told   bool            `json:"told" doc:"That all see what is said"`
	Left   bool            `json:"left" doc:"The thread, by the word for it"`
}

func viewMany(l service.Look) *manyView {
	t := l.Thread
	v := &manyView{Named: t.Named, Group: t.Group, Unit: t.Unit, Ended: l.Ended, People: []inThread{}, Beyond: l.Beyond}
	for _, p := range l.People {
		v.People = append(v.People, inThread{
			p.Person.ID, p.Person.Name(), roster.LanguageName(p.Person.Language), p.Part, p.By, p.Reason.Sentence(),
			p.Told, p.Left,
		})
	}
	return v
}

type reachedView struct {
	People  []reachedPerson `json:"people"`
	LeftOut []reachedPerson `json:"leftOut"`
}

type reachedPerson struct {
	Person roster.PersonID `json:"person"`
	Name   string          `json:"name"`
	Says   string          `json:"says" doc:"How it reached them, or the reason why they got nothing"`
}

func (s *Area) reached(ctx context.Context, in *struct {
	ThreadID
	Message int64 `path:"message" minimum:"1"`
}) (*route.Body[reachedView], error) {
	list, left, err := s.Desks.Reached(ctx, in.ID, in.Message, route.By(ctx))
	out := reachedView{People: []reachedPerson{}, LeftOut: []reachedPerson{}}
	for _, r := range list {
		says := string(r.Outcome)
		if r.Best == delivery.Opened {
			says = "confirmed"
		}
		out.People = append(out.People, reachedPerson{r.Person, r.Name, says})
	}
	for _, l := range left {
		out.LeftOut = append(out.LeftOut, reachedPerson{l.Person, l.Name, plan.Reason(l.Reason).Sentence()})
	}
	return route.Answer(out), s.Problem(ctx, err)
}
