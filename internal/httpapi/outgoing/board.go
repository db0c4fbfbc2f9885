package outgoing

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/asking"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

func (s *Area) boardRoutes(api huma.API) {
	route.Get(
		api, "/messages/{id}/board", "board", "What everybody who was asked by a message has answered",
		s.board, access.ReadRecords, access.Write,
	)
	route.Post(
		api, "/messages/{id}/answers", "write-down-answer", "Write down what somebody said when they were called",
		s.writeDown, access.ReadRecords, access.Write,
	)
}

type boardMark struct {
	Recipient int64            `json:"recipient"`
	Person    roster.PersonID  `json:"person" doc:"0 when they are not, or no longer, on the roster"`
	Name      string           `json:"name"`
	Stand     asking.Stand     `json:"stand" enum:"answered,wrote,silent,on-the-way,missed"`
	Answer    int              `json:"answer" doc:"The number of what they answered; 0 for nothing"`
	Minutes   int              `json:"minutes" doc:"After which they come, if they said so"`
	At        *time.Time       `json:"at,omitempty" doc:"When they answered"`
	Area      roster.UnitID    `json:"area" doc:"The unit they belong to; 0 for none"`
	Groups    []roster.GroupID `json:"groups"`
	Numbers   []string         `json:"numbers" doc:"To call them, while they have not answered"`
}

type boardPart struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

type boardRemark struct {
	Person  roster.PersonID `json:"person" doc:"0 while it is not known who of several it was"`
	Name    string          `json:"name"`
	Answer  int             `json:"answer"`
	Channel roster.Channel  `json:"channel" enum:"email,text,voice,push," doc:"By which it came; empty for written down"`
	By      string          `json:"by" doc:"Who wrote it down; empty for nobody"`
	Remark  string          `json:"remark"`
	At      time.Time       `json:"at"`
}

type boardView struct {
	Title    string           `json:"title"`
	Question message.Question `json:"question"`
	Tally    asking.Tally     `json:"tally"`
	Unclear  int              `json:"unclear" doc:"Answers from addresses of several people, of whom it is not known who it was"`
	LeftOut  int              `json:"leftOut" doc:"Who was named and not asked"`
	Filled   *time.Time       `json:"filled,omitempty" doc:"When enough people answered"`
	Moving   bool             `json:"moving" doc:"Something of it is still to leave"`
	Marks    []boardMark      `json:"marks"`
	Areas    []boardPart      `json:"areas"`
	Groups   []boardPart      `json:"groups"`
	Latest   []boardRemark    `json:"latest" doc:"The last answers that came, the newest first"`
}

func (s *Area) board(ctx context.Context, in *MessageID) (*route.Body[boardView], error) {
	b, err := s.Sending.Board(ctx, in.ID, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v := boardView{
		Title: b.Message.Title, Question: *b.Message.Draft.Question, Tally: b.Tally, Unclear: b.Unclear,
		LeftOut: b.Message.Figures.LeftOut, Filled: moment(b.Filled), Moving: b.Message.Figures.Here > 0,
		Marks: make([]boardMark, len(b.Asked)), Areas: []boardPart{}, Groups: []boardPart{}, Latest: []boardRemark{},
	}
	groups, areas := b.GroupsOf(), map[roster.UnitID]bool{}
	names := make(map[roster.PersonID]string, len(b.Asked))
	for i, a := range b.Asked {
		v.Marks[i] = viewMark(a, b.Roster.Person(a.Person), groups[a.Person])
		areas[v.Marks[i].Area] = true
		names[a.Person] = a.Name
	}
	for _, u := range b.Roster.Units {
		if areas[u.ID] {
			v.Areas = append(v.Areas, boardPart{int64(u.ID), u.Name})
		}
	}
	for _, g := range b.Groups {
		v.Groups = append(v.Groups, boardPart{int64(g), b.Roster.GroupName(g)})
	}
	v.Latest = viewLatest(b, names)
	return route.Answer(v), nil
}

func viewMark(a store.OnBoard, p *roster.Person, groups []roster.GroupID) boardMark {
	m := boardMark{
		Recipient: a.Recipient, Person: a.Person, Name: a.Name, Stand: a.Stand(), Answer: a.Number, Minutes: a.Minutes,
		Groups: groups, Numbers: []string{},
	}
	if m.Groups == nil {
		m.Groups = []roster.GroupID{}
	}
	if a.Number > 0 {
		m.At = moment(a.AnsweredAt)
	}
	if p == nil {
		return m
	}
	m.Area = p.Unit
	if a.Number > 0 {
		return m
	}
	seen := map[string]bool{}
	for _, address := range p.Addresses {
		if (address.Channel == roster.Voice || address.Channel == roster.Text) && !seen[address.Value] {
			seen[address.Value] = true
			m.Numbers = append(m.Numbers, phone.Display(address.Value))
		}
	}
	return m
}

// viewLatest are the last answers that came, the newest first.
func viewLatest(b sending.Board, names map[roster.PersonID]string) []boardRemark {
	list := []boardRemark{}
	for _, a := range b.Latest {
		name := names[a.Person]
		if a.Person == 0 {
			name = phone.Display(a.Address)
		}
		list = append(list, boardRemark{
			Person: a.Person, Name: name, Answer: a.Number, Channel: a.Channel, By: a.By, Remark: a.Remark, At: a.At,
		})
	}
	return list
}

func (s *Area) writeDown(ctx context.Context, in *struct {
	MessageID
	Body struct {
		Person  roster.PersonID `json:"person" minimum:"1"`
		Answer  int             `json:"answer" minimum:"1" maximum:"9" doc:"The number of what they answered"`
		Minutes int             `json:"minutes,omitempty" minimum:"0" maximum:"1440" doc:"After which they come"`
		Remark  string          `json:"remark,omitempty" maxLength:"200"`
	}
}) (*struct{}, error) {
	given := asking.Given{Number: in.Body.Answer, Minutes: in.Body.Minutes, Remark: in.Body.Remark}
	return nil, s.Problem(ctx, s.Sending.WriteDown(ctx, in.ID, in.Body.Person, given, route.By(ctx)))
}
