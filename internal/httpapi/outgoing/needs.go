package outgoing

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/mend"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/sending"
)

func (s *Area) needRoutes(api huma.API) {
	route.Get(
		api, "/messages/{id}/needs", "needs", "Whom a message did not reach, by what would mend that",
		s.needs, access.ReadRecords, access.Write,
	)
	route.Post(
		api, "/messages/{id}/needs", "look-after", "Say that people are done, or who is to look after them",
		s.lookAfter, access.Write,
	)
	route.Post(
		api, "/messages/{id}/next", "try-next", "Try recipients who were not reached on their next step at once",
		s.tryNext, access.Write,
	)
}

type needView struct {
	Recipient int64           `json:"recipient" doc:"0 of somebody who got nothing"`
	Person    roster.PersonID `json:"person" doc:"0 of somebody who is not on the roster"`
	Name      string          `json:"name"`
	What      string          `json:"what" doc:"Was wrong, in words"`
	Given     string          `json:"given" doc:"Who is asked to look after them; empty for nobody"`
	GivenTo   int64           `json:"givenTo" doc:"Their account; 0 for nobody"`
	Done      bool            `json:"done"`
	Reached   bool            `json:"reached" doc:"A message that follows, or that this one follows, reached them"`
	DoneBy    string          `json:"doneBy" doc:"Who said that they are done"`
	DoneAt    *time.Time      `json:"doneAt,omitempty"`
}

type needGroup struct {
	Way    mend.Way   `json:"way" enum:"next-channel,again,address,details,words,paper" doc:"What would mend it"`
	Open   int        `json:"open" doc:"How many are not done"`
	People []needView `json:"people" doc:"Those who are not done first"`
}

type colleague struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

type needsView struct {
	Groups     []needGroup `json:"groups" doc:"The quickest to mend first"`
	Open       int         `json:"open" doc:"How many people are not done, in all"`
	Colleagues []colleague `json:"colleagues" doc:"Who can be asked to look after people"`
}

func (s *Area) needs(ctx context.Context, in *MessageID) (*route.Body[needsView], error) {
	list, err := s.Sending.Needs(ctx, in.ID, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	accounts, err := s.Sending.Colleagues(ctx, in.ID, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v := needsView{Groups: []needGroup{}, Colleagues: make([]colleague, len(accounts))}
	for i, a := range accounts {
		v.Colleagues[i] = colleague{a.ID, a.Name}
	}
	for _, way := range mend.Ways {
		if g := groupOf(list, way); len(g.People) > 0 {
			v.Groups, v.Open = append(v.Groups, g), v.Open+g.Open
		}
	}
	return route.Answer(v), nil
}

// groupOf are those whom a way would mend, who are not done first.
func groupOf(list []sending.Need, way mend.Way) needGroup {
	g := needGroup{Way: way, People: []needView{}}
	var done []needView
	for _, n := range list {
		switch {
		case n.Way != way:
		case n.Done():
			done = append(done, viewNeed(n))
		default:
			g.People = append(g.People, viewNeed(n))
		}
	}
	g.Open, g.People = len(g.People), append(g.People, done...)
	return g
}

func viewNeed(n sending.Need) needView {
	return needView{
		Recipient: n.Recipient, Person: n.Person, Name: n.Name, What: n.What, Given: n.Hand.Given, GivenTo: n.Hand.GivenTo,
		Done: n.Done(), Reached: n.Reached, DoneBy: n.Hand.Done, DoneAt: moment(n.Hand.DoneAt),
	}
}

func (s *Area) lookAfter(ctx context.Context, in *struct {
	MessageID
	Body struct {
		People  []roster.PersonID `json:"people" minItems:"1" maxItems:"200000"`
		Done    *bool             `json:"done,omitempty" doc:"They are done, or not after all"`
		GivenTo *int64            `json:"givenTo,omitempty" doc:"The account that is to look after them; 0 for nobody"`
	}
}) (*struct{}, error) {
	by, b := route.By(ctx), in.Body
	if b.Done != nil {
		if err := s.Sending.Tick(ctx, in.ID, b.People, *b.Done, by); err != nil {
			return nil, s.Problem(ctx, err)
		}
	}
	if b.GivenTo != nil {
		if err := s.Sending.Give(ctx, in.ID, b.People, *b.GivenTo, by); err != nil {
			return nil, s.Problem(ctx, err)
		}
	}
	return nil, nil
}

type triedNextView struct {
	Tried int `json:"tried" doc:"How many have a next step, on which they are tried now"`
}

func (s *Area) tryNext(ctx context.Context, in *struct {
	MessageID
	Body struct {
		Recipients []int64 `json:"recipients" minItems:"1" maxItems:"200000"`
	}
}) (*route.Body[triedNextView], error) {
	n, err := s.Sending.TryNext(ctx, in.ID, in.Body.Recipients, route.By(ctx))
	return route.Answer(triedNextView{n}), s.Problem(ctx, err)
}
