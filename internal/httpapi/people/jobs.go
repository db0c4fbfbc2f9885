package people

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/job"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/editing"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
)

func (s *Area) jobRoutes(api huma.API) {
	route.Get(api, "/jobs", "jobs", "Jobs that are open, coming and closed", s.jobs, seesPeople...)
	route.Get(api, "/jobs/{id}", "job", "A job with its people by part", s.job, seesPeople...)
	route.Post(api, "/jobs", "begin-job", "Begin a job", s.beginJob, access.EditPeople)
	route.Put(api, "/jobs/{id}", "save-job", "Change a job", s.saveJob, access.EditPeople)
	act := func(path, id, summary string, right access.Right) route.Route {
		return route.New(http.MethodPost, "/jobs/{id}/"+path, id, summary, right)
	}
	route.Add(api, act("people", "put-in-job", "Put people into a job with a part", access.EditPeople).Takes(mostPeople), s.putInJob)
	route.Add(api, act("out", "take-out-of-job", "Take people out of a job", access.EditPeople).Takes(mostPeople), s.takeOut)
	route.Add(api, act("close", "close-job", "Close a job", access.EditPeople).Small(), s.closeJob)
	route.Add(api, act("reopen", "reopen-job", "Open a job again", access.EditPeople).Small(), s.reopenJob)
	route.Add(api, act("template", "keep-job-template", "Keep a job as a template", access.EditPeople).Small(), s.keepTemplate)
	route.Add(api, act("ask", "ask-for-job", "Begin a message that asks who is coming", access.Write).Small(), s.askForJob)
	route.Del(api, "/job-templates/{id}", "drop-job-template", "Remove a template of jobs", s.dropTemplate, access.EditPeople)
}

// jobView is a job as lists show it.
type jobView struct {
	ID        roster.GroupID   `json:"id"`
	Name      string           `json:"name"`
	Reference string           `json:"reference"`
	Place     string           `json:"place"`
	Unit      roster.UnitID    `json:"unit"`
	UnitPath  string           `json:"unitPath"`
	Starts    *time.Time       `json:"starts,omitempty"`
	Ends      *time.Time       `json:"ends,omitempty" doc:"When it is expected to end"`
	Closed    *time.Time       `json:"closed,omitempty"`
	Stands    job.Stands       `json:"stands"`
	Overdue   bool             `json:"overdue" doc:"It is open though its end has passed"`
	People    int              `json:"people" doc:"In it, each once"`
	Parts     map[job.Part]int `json:"parts" doc:"How many of them do it, are on site, watch over it"`
	Beyond    int              `json:"beyond" doc:"Others in it whom the account does not reach"`
	Inside    []roster.GroupID `json:"inside" doc:"Groups that are nested in it"`
	Editable  bool             `json:"editable"`
}

type jobList struct {
	Jobs      []jobView     `json:"jobs" doc:"Open ones first, then coming, then closed"`
	Templates []jobTemplate `json:"templates"`
}

type jobTemplate struct {
	ID     int64  `json:"id"`
	Name   string `json:"name"`
	Place  string `json:"place"`
	People int    `json:"people"`
}

func (s *Area) jobs(ctx context.Context, _ *struct{}) (*route.Body[jobList], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	counts, err := s.Store.JobCounts(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := jobList{Jobs: []jobView{}, Templates: []jobTemplate{}}
	for _, g := range job.Jobs(r.Groups(), s.Now()) {
		out.Jobs = append(out.Jobs, s.viewJob(ctx, r, g, counts[g.ID]))
	}
	templates, err := s.Editor.JobTemplates(ctx, route.By(ctx))
	for _, t := range templates {
		people := 0
		for _, list := range t.People {
			people += len(list)
		}
		out.Templates = append(out.Templates, jobTemplate{t.ID, t.Name, t.Place, people})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

// viewJob shows a job; said are the people of whom it is known what they do in it. The
// others of those in it do it.
func (s *Area) viewJob(ctx context.Context, r *roster.Roster, g roster.Group, said map[job.Part]int) jobView {
	by := route.By(ctx)
	return jobView{
		ID: g.ID, Name: g.Name, Reference: g.Reference, Place: g.Place, Unit: g.Unit, UnitPath: r.UnitPath(g.Unit),
		Starts: g.Starts, Ends: g.Ends, Closed: g.Closed, Stands: job.Standing(g, s.Now()), Overdue: job.Overdue(g, s.Now()),
		People: len(r.In(g.ID)), Beyond: g.Beyond, Parts: job.Count(len(r.In(g.ID))+g.Beyond, said),
		Inside:   append([]roster.GroupID{}, g.Inside...),
		Editable: by.May(access.EditPeople) && by.Scope.MayEdit(&g),
	}
}

type jobRead struct {
	Job     jobView     `json:"job"`
	People  []jobPerson `json:"people" doc:"By part, then by name"`
	Nested  []jobNested `json:"nested" doc:"Groups that are nested in it"`
	Asks    []jobAsk    `json:"asks" doc:"Messages that asked who is coming, the last first"`
	Threads []jobThread `json:"threads" doc:"At the desks where the account sits"`
	Desk    desk.ID     `json:"desk" doc:"Of the account, to which its thread belongs; 0 for none"`
}

type jobPerson struct {
	ID     roster.PersonID `json:"id"`
	Name   string          `json:"name"`
	Unit   string          `json:"unit"`
	Part   job.Part        `json:"part"`
	Status roster.Status   `json:"status"`
	Number string          `json:"number" doc:"The first that can be called or texted; empty for none"`
	Came   int64           `json:"came" doc:"The message by which they said that they come; 0 when they were put there"`
	Own    bool            `json:"own" doc:"In the job themselves; otherwise by a group that is nested in it"`
}

type jobNested struct {
	ID     roster.GroupID `json:"id"`
	Name   string         `json:"name"`
	People int            `json:"people"`
}

type jobAsk struct {
	Message int64  `json:"message"`
	Title   string `json:"title"`
	Needed  int    `json:"needed" doc:"0 for however many"`
	Coming  int    `json:"coming" doc:"Answers that count"`
	Asked   int    `json:"asked"`
	Silent  int    `json:"silent" doc:"Who was asked and gave no answer"`
}

type jobThread struct {
	ID     int64      `json:"id"`
	Desk   desk.ID    `json:"desk"`
	Name   string     `json:"name" doc:"Of the desk"`
	Waits  desk.Waits `json:"waits"`
	Unread bool       `json:"unread"`
}

func (s *Area) job(ctx context.Context, in *GroupID) (*route.Body[jobRead], error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	g, there := r.Group(in.ID)
	if !there || g.Kind != roster.Job {
		return nil, s.Problem(ctx, store.ErrNotFound)
	}
	counts, err := s.Store.JobCounts(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	parts, err := s.Store.JobParts(ctx, in.ID)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	v := jobRead{
		Job: s.viewJob(ctx, r, *g, counts[g.ID]), People: viewJobPeople(r, g, parts), Nested: []jobNested{},
		Asks: []jobAsk{}, Threads: []jobThread{},
	}
	for _, id := range g.Inside {
		if inner, ok := r.Group(id); ok {
			v.Nested = append(v.Nested, jobNested{id, inner.Name, len(r.In(id))})
		}
	}
	if v.Asks, err = s.jobAsks(ctx, in.ID); err != nil {
		return nil, s.Problem(ctx, err)
	}
	err = s.jobThreads(ctx, r, g, &v)
	return route.Answer(v), s.Problem(ctx, err)
}

func viewJobPeople(r *roster.Roster, g *roster.Group, parts store.JobParts) []jobPerson {
	list := []jobPerson{}
	for _, i := range r.In(g.ID) {
		p := r.At(i)
		one := jobPerson{
			ID: p.ID, Name: p.Name(), Unit: r.UnitPath(p.Unit), Part: parts.Of(p.ID), Status: p.Status,
			Came: parts[p.ID].CameBy, Own: slices.Contains(g.Members, p.ID),
		}
		for _, a := range p.Addresses {
			if a.Channel != roster.Email && a.Channel != roster.Push && a.Usable() {
				one.Number = phone.Display(a.Value)
				break
			}
		}
		list = append(list, one)
	}
	slices.SortStableFunc(list, func(a, b jobPerson) int {
		return slices.Index(job.Parts, a.Part) - slices.Index(job.Parts, b.Part)
	})
	return list
}

// jobAsks are the messages that asked who is coming, as far as the account may read them.
func (s *Area) jobAsks(ctx context.Context, id roster.GroupID) ([]jobAsk, error) {
	list := []jobAsk{}
	asks, err := s.Store.JobAsks(ctx, id)
	if err != nil || !route.By(ctx).May(access.ReadRecords) {
		return list, err
	}
	for _, a := range asks {
		b, err := s.Boards.Board(ctx, a.Message, route.By(ctx))
		if err != nil {
			continue // of an account that this one does not see
		}
		t := b.Tally
		list = append(list, jobAsk{
			a.Message, a.Title, b.Message.Draft.Question.Needed, t.Fills, t.Asked, t.Silent + t.Wrote + t.OnTheWay,
		})
	}
	return list, nil
}

// jobThreads are the threads with a job at the desks of the account, and the desk of the
// account to which a new one belongs.
func (s *Area) jobThreads(ctx context.Context, r *roster.Roster, g *roster.Group, v *jobRead) error {
	desks, err := s.Store.Desks(ctx)
	if err != nil {
		return err
	}
	mine := slices.DeleteFunc(desks, func(d desk.Desk) bool { return !d.Sits(route.By(ctx).ID) })
	v.Desk = desk.Choose(mine, desk.Meant{Groups: []roster.GroupID{g.ID}, Unit: g.Unit}, r)
	threads, err := s.Store.ThreadsOfGroup(ctx, g.ID)
	for _, t := range threads {
		at := slices.IndexFunc(mine, func(d desk.Desk) bool { return d.ID == t.Desk })
		if at >= 0 {
			v.Threads = append(v.Threads, jobThread{t.ID, t.Desk, mine[at].Name, t.Waits, t.Unread})
		}
	}
	return err
}

// JobBody is what is typed of a job.
type JobBody struct {
	Name      string           `json:"name" maxLength:"200"`
	Reference string           `json:"reference,omitempty" maxLength:"80" doc:"As others call it"`
	Place     string           `json:"place,omitempty" maxLength:"200"`
	Unit      roster.UnitID    `json:"unit,omitempty"`
	Starts    *time.Time       `json:"starts,omitempty"`
	Ends      *time.Time       `json:"ends,omitempty"`
	Inside    []roster.GroupID `json:"inside,omitempty" maxItems:"200" doc:"Groups that are nested in it"`
}

func (b JobBody) group(id roster.GroupID) roster.Group {
	return roster.Group{
		ID: id, Name: b.Name, Kind: roster.Job, Reference: b.Reference, Place: b.Place, Unit: b.Unit, Starts: b.Starts,
		Ends: b.Ends, Inside: b.Inside,
	}
}

func (s *Area) beginJob(ctx context.Context, in *struct {
	Body newJob
}) (*route.Body[savedGroup], error) {
	b := in.Body
	id, err := s.Editor.BeginJob(ctx, route.By(ctx), b.group(0), editing.Beginning{Like: b.Like, Template: b.Template})
	return route.Answer(savedGroup{ID: id}), s.Problem(ctx, err)
}

// newJob is what is typed of a new job, and what it begins with.
type newJob struct {
	JobBody
	Like     roster.GroupID `json:"like,omitempty" minimum:"0" doc:"Another job, with whose people it begins"`
	Template int64          `json:"template,omitempty" minimum:"0" doc:"A template, with whose people it begins"`
}

func (s *Area) saveJob(ctx context.Context, in *struct {
	GroupID
	Body JobBody
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Editor.SaveJob(ctx, route.By(ctx), in.Body.group(in.ID)))
}

type putPeople struct {
	Part   job.Part          `json:"part"`
	People []roster.PersonID `json:"people,omitempty" maxItems:"200000"`
	Group  roster.GroupID    `json:"group,omitempty" minimum:"0" doc:"Everybody who is in it now"`
	Unit   roster.UnitID     `json:"unit,omitempty" minimum:"0" doc:"Everybody who belongs to it, or to one inside it, now"`
}

type putCount struct {
	People int `json:"people"`
}

func (s *Area) putInJob(ctx context.Context, in *struct {
	GroupID
	Body putPeople
}) (*route.Body[putCount], error) {
	n, err := s.Editor.PutInJob(ctx, route.By(ctx), in.ID, in.Body.Part, editing.Whom{
		People: in.Body.People, Group: in.Body.Group, Unit: in.Body.Unit,
	})
	return route.Answer(putCount{n}), s.Problem(ctx, err)
}

func (s *Area) takeOut(ctx context.Context, in *struct {
	GroupID
	Body struct {
		People []roster.PersonID `json:"people" maxItems:"200000"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Editor.TakeOutOfJob(ctx, route.By(ctx), in.ID, in.Body.People))
}

func (s *Area) closeJob(ctx context.Context, in *GroupID) (*struct{}, error) {
	now := s.Now()
	return nil, s.Problem(ctx, s.Editor.CloseJob(ctx, route.By(ctx), in.ID, &now))
}

func (s *Area) reopenJob(ctx context.Context, in *GroupID) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Editor.CloseJob(ctx, route.By(ctx), in.ID, nil))
}

func (s *Area) keepTemplate(ctx context.Context, in *struct {
	GroupID
	Body struct {
		Name string `json:"name" maxLength:"120"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Editor.KeepJobTemplate(ctx, route.By(ctx), in.ID, in.Body.Name))
}

func (s *Area) dropTemplate(ctx context.Context, in *struct {
	ID int64 `path:"id" minimum:"1"`
}) (*struct{}, error) {
	return nil, s.Problem(ctx, s.Editor.DropJobTemplate(ctx, route.By(ctx), in.ID))
}

func (s *Area) askForJob(ctx context.Context, in *GroupID) (*route.Body[route.Made], error) {
	m, err := s.Messages.AskForJob(ctx, route.By(ctx), in.ID)
	return route.Answer(route.Made{ID: m.ID}), s.Problem(ctx, err)
}
