package desks

import (
	"context"
	"net/http"
	"path/filepath"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
	service "upperlantern/internal/desks"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/view"
	"upperlantern/internal/store"
	"upperlantern/internal/wording"
)

func (s *Area) threadRoutes(api huma.API) {
	route.Get(api, "/desks/{id}/threads", "threads", "The threads of a desk", s.threads)
	route.Get(api, "/desks/{id}/with-whom", "with-whom", "By what the threads of a desk can be told apart", s.withWhom)
	route.Post(api, "/desks/{id}/threads", "open-thread", "Begin a thread with somebody, or find theirs", s.open)
	s.manyRoutes(api)
	route.Get(api, "/threads/{id}", "thread", "What was said with somebody", s.thread)
	act := func(path, id, summary string) route.Route {
		return route.New(http.MethodPost, "/threads/{id}/"+path, id, summary).Small()
	}
	route.Add(api, act("read", "read-thread", "Say that the desk has read a thread"), s.read)
	route.Add(api, act("here", "here", "Say that one looks at a thread, or writes in it"), s.here)
	route.Add(api, act("settle", "settle-thread", "Say that there is nothing to say"), s.settle)
	route.Add(api, act("back", "bring-back", "Let a thread wait for us again at a time"), s.back)
	route.Add(api, act("leave", "leave-thread", "Leave a thread for the next shift"), s.leave)
	route.Add(api, act("hand", "hand-thread", "Give a thread to somebody of the desk, or to nobody"), s.hand)
	route.Add(api, act("note", "note-thread", "Write a note that never leaves"), s.note)
	route.Add(api, act("identify", "identify", "Say who writes from the address of a thread"), s.identify)
	route.Add(api, act("copies", "read-copies", "Let what came in be read in the desk's language"), s.readCopies)
	route.Add(api, act("copy", "copy-answer", "What is being written, in the language that they read"), s.copy)
	route.Add(api, act("weigh", "weigh-answer", "What an answer would come to"), s.weigh)
	route.Add(api, act("answer", "answer-thread", "Write back; it can be taken back for some seconds"), s.answer)
	route.Add(api, act("take-back", "take-back", "Take an answer back that is still held"), s.takeBack)
	route.Add(api, route.New(
		http.MethodPost, "/threads/{id}/files", "add-thread-file", "Upload a file that is to go with an answer",
	).Takes(attachment.LargestFile+1), s.addFile)
	route.Add(api, route.New(
		http.MethodGet, "/threads/{id}/files/{hash}", "thread-file", "A file that came in",
	).Gives("application/octet-stream"), s.file)
}

// ThreadID names a thread in a path.
type ThreadID struct {
	ID int64 `path:"id" minimum:"1"`
}

type threadRow struct {
	ID      int64           `json:"id"`
	With    desk.With       `json:"with"`
	Person  roster.PersonID `json:"person" doc:"0 of somebody who is not on the roster, and with many"`
	Name    string          `json:"name"`
	Waits   desk.Waits      `json:"waits"`
	Since   time.Time       `json:"since" doc:"It waits so"`
	Unread  bool            `json:"unread"`
	Holder  string          `json:"holder" doc:"Who looks after it"`
	Mine    bool            `json:"mine"`
	Note    string          `json:"note" doc:"Left by the last shift"`
	Back    *time.Time      `json:"back,omitempty" doc:"When it waits for us again"`
	At      time.Time       `json:"at" doc:"When something was said last"`
	Text    string          `json:"text" doc:"The beginning of that"`
	From    *view.Choice    `json:"readFrom,omitempty" doc:"The language from which the machine read it, when nobody checked that"`
	Channel roster.Channel  `json:"channel,omitempty" doc:"By which they last wrote; absent with many"`
	Shared  bool            `json:"shared" doc:"All in it see what is said"`
}

func viewRow(t store.Thread, by int64) threadRow {
	v := threadRow{
		ID: t.ID, Person: t.Person, Name: t.Name, Waits: t.Waits, Since: t.Since, Unread: t.Unread, Holder: t.HolderName,
		Mine: t.Holder == by, Note: t.Note, At: t.LastAt, Text: t.LastText, Channel: t.Channel, With: t.With,
		Shared: t.Shared,
	}
	if t.Person == 0 && !t.With.Many() {
		v.Name = phone.Display(t.Name)
	}
	if t.LastFrom != "" {
		v.From = &view.Choice{Value: t.LastFrom, Words: phrase.LanguageName("en", t.LastFrom)}
	}
	if !t.Back.IsZero() {
		v.Back = &t.Back
	}
	return v
}

type threadList struct {
	Threads []threadRow `json:"threads"`
	All     int         `json:"all"`
}

func (s *Area) threads(ctx context.Context, in *struct {
	DeskID
	route.Page
	Waits    desk.Waits    `query:"waits" enum:"us,them,quiet,"`
	Mine     bool          `query:"mine" doc:"Only those that the account took"`
	With     desk.With     `query:"with" enum:"one,people,group,area,everybody,job," doc:"Only threads of a kind"`
	Language string        `query:"language" maxLength:"40" doc:"Only with readers of it, BCP 47"`
	Area     roster.UnitID `query:"area" minimum:"0" doc:"Only with people of a unit, and of those inside it"`
	ByName   bool          `query:"byName" doc:"Arranged by name, not by what the shift owes"`
	Find     string        `query:"find" maxLength:"100" doc:"Words of a name, an address or what was said last"`
}) (*route.Body[threadList], error) {
	by := route.By(ctx)
	list, all, err := s.Desks.Threads(ctx, service.Wanted{
		Desk: in.ID, Waits: in.Waits, Mine: in.Mine, Find: in.Find, From: in.First, Count: in.Count,
		Language: in.Language, Area: in.Area, ByName: in.ByName, With: in.With,
	}, by)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := threadList{Threads: []threadRow{}, All: all}
	for _, t := range list {
		out.Threads = append(out.Threads, viewRow(t, by.ID))
	}
	return route.Answer(out), nil
}

type withWhom struct {
	Languages []view.Choice `json:"languages" doc:"That the people of the threads read"`
	Areas     []deskArea    `json:"areas" doc:"Units that they belong to, and those around them"`
}

type deskArea struct {
	ID   roster.UnitID `json:"id"`
	Name string        `json:"name"`
}

func (s *Area) withWhom(ctx context.Context, in *DeskID) (*route.Body[withWhom], error) {
	languages, units, err := s.Desks.WithWhom(ctx, in.ID, route.By(ctx))
	out := withWhom{Languages: []view.Choice{}, Areas: []deskArea{}}
	for _, tag := range languages {
		out.Languages = append(out.Languages, view.Choice{Value: tag, Words: phrase.LanguageName("en", tag)})
	}
	for _, u := range units {
		out.Areas = append(out.Areas, deskArea{u.ID, u.Name})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) open(ctx context.Context, in *struct {
	DeskID
	Body struct {
		Person roster.PersonID `json:"person"`
	}
}) (*route.Body[route.Made], error) {
	id, err := s.Desks.Open(ctx, in.ID, in.Body.Person, route.By(ctx))
	return route.Answer(route.Made{ID: id}), s.Problem(ctx, err)
}

type entryView struct {
	ID         int64             `json:"id"`
	Kind       store.EntryKind   `json:"kind"`
	At         time.Time         `json:"at"`
	Channel    roster.Channel    `json:"channel,omitempty"`
	From       string            `json:"from" doc:"The address"`
	Name       string            `json:"name"`
	Subject    string            `json:"subject"`
	Said       string            `json:"said"`
	Copy       *copied           `json:"copy,omitempty" doc:"What came in as the desk reads it, or what leaves as they read it"`
	Folded     string            `json:"folded" doc:"A quotation or a signature"`
	Files      []attachment.File `json:"files"`
	Dropped    []string          `json:"dropped" doc:"What came besides and was not kept"`
	Message    int64             `json:"message" doc:"That it answers, or as which it leaves"`
	Title      string            `json:"title" doc:"Of the message that it answers"`
	State      delivery.State    `json:"state,omitempty" doc:"How far what we wrote got"`
	Detail     string            `json:"detail"`
	Moved      *time.Time        `json:"moved,omitempty" doc:"Since when"`
	Leaves     *time.Time        `json:"leaves,omitempty" doc:"Until when it can be taken back"`
	Person     roster.PersonID   `json:"person" doc:"Who said it; 0 of somebody who is not known"`
	Interrupts bool              `json:"interrupts" doc:"Pushes of it stay until they are touched"`
	Passed     int64             `json:"passed" doc:"As which message it was passed on to the others; 0 when it was not"`
	People     *wentTo           `json:"people,omitempty" doc:"Whom it went to in a thread with many, or was passed on to"`
}

// wentTo is how far something got that went to many.
type wentTo struct {
	All        int `json:"all"`
	Reached    int `json:"reached"`
	Waiting    int `json:"waiting"`
	NotReached int `json:"notReached"`
	LeftOut    int `json:"leftOut" doc:"Who was in the thread and got nothing"`
}

type copied struct {
	Language string `json:"language" doc:"BCP 47"`
	Text     string `json:"text"`
	Checked  bool   `json:"checked" doc:"A person checked every line"`
}

func viewEntry(e store.Entry) entryView {
	v := entryView{
		ID: e.ID, Kind: e.Kind, At: e.At, Channel: e.Channel, From: phone.Display(e.Address), Name: e.Name,
		Subject: e.Subject, Said: e.Said, Folded: e.Folded, Files: append([]attachment.File{}, e.Files...),
		Dropped: append([]string{}, e.Dropped...), Message: e.Message, Title: e.Title, State: e.State, Detail: e.Detail,
	}
	if e.Copy.Text != "" {
		v.Copy = &copied{e.Copy.Language, e.Copy.Text, e.Copy.Checked}
	}
	if e.Kind == store.EntryOut {
		v.Moved = &e.Moved
	}
	v.Person, v.Passed, v.Interrupts = e.Person, e.Passed, e.Interrupts
	if f := e.People; f.Recipients+f.LeftOut > 0 {
		v.People = &wentTo{f.Recipients, f.Reached, f.Waiting, f.NotReached, f.LeftOut}
	}
	if e.Held {
		v.State, v.Leaves = delivery.Held, &e.Leaves
	}
	if v.Name == e.Address {
		v.Name = v.From
	}
	return v
}

type placeView struct {
	Channel roster.Channel `json:"channel"`
	Address string         `json:"address"`
	Shown   string         `json:"shown" doc:"The address as it is read"`
	Aside   string         `json:"aside" doc:"Why nothing can go there; empty when it can"`
}

type presentView struct {
	Name    string `json:"name"`
	Writing bool   `json:"writing"`
}

type maybeView struct {
	ID   roster.PersonID `json:"id"`
	Name string          `json:"name"`
	Note string          `json:"note" doc:"What tells them from the others"`
}

type threadView struct {
	Thread     threadRow     `json:"thread"`
	Desk       desk.ID       `json:"desk"`
	Address    string        `json:"address" doc:"From where they last wrote"`
	Message    int64         `json:"message" doc:"That they answered last; 0 for none"`
	Title      string        `json:"title"`
	Entries    []entryView   `json:"entries" doc:"The oldest first"`
	Places     []placeView   `json:"places" doc:"Where an answer can go; where they last wrote from first"`
	Person     *person       `json:"person,omitempty" doc:"Absent of somebody who is not on the roster, or whom the account does not see"`
	Maybe      []maybeView   `json:"maybe" doc:"Who has the address, if several do"`
	Me         int64         `json:"me" doc:"The account that asks"`
	Here       []presentView `json:"here" doc:"Others who look at it now"`
	Colleagues []route.Named `json:"colleagues" doc:"Who sits at the desk"`
	Many       *manyView     `json:"many,omitempty" doc:"Of a thread with many"`
}

func (s *Area) thread(ctx context.Context, in *ThreadID) (*route.Body[threadView], error) {
	by := route.By(ctx)
	look, err := s.Desks.Look(ctx, in.ID, by)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	t := look.Thread
	v := threadView{
		Thread: viewRow(t, by.ID), Desk: t.Desk, Address: phone.Display(t.Address), Message: t.Message, Title: t.Title,
		Entries: []entryView{}, Places: []placeView{}, Maybe: []maybeView{}, Me: by.ID,
		Here: []presentView{}, Colleagues: []route.Named{},
	}
	for _, e := range look.Entries {
		v.Entries = append(v.Entries, viewEntry(e))
	}
	for _, p := range look.Places {
		v.Places = append(v.Places, placeView{p.Channel, p.Address, phone.Display(p.Address), p.Aside})
	}
	for _, p := range look.Maybe {
		v.Maybe = append(v.Maybe, viewMaybe(viewPerson(look.Roster, p)))
	}
	for _, a := range look.Members {
		v.Colleagues = append(v.Colleagues, route.Named{ID: a.ID, Name: a.Name})
	}
	for _, p := range look.Here {
		v.Here = append(v.Here, presentView{p.Name, p.Writing})
	}
	if t.With.Many() {
		v.Many = viewMany(look)
	}
	if look.Person != nil {
		v.Person = viewPerson(look.Roster, look.Person)
	}
	return route.Answer(v), nil
}

// viewMaybe tells somebody from others who have the same address, and perhaps the same
// name: by whom they look after, or where they belong.
func viewMaybe(p *person) maybeView {
	v := maybeView{ID: p.ID, Name: p.Name, Note: p.Unit}
	switch {
	case len(p.About) > 0:
		v.Note = "guardian of " + strings.Join(p.About, ", ")
	case len(p.Groups) > 0:
		v.Note = strings.Join(p.Groups, ", ")
	}
	return v
}

func viewPerson(r *roster.Roster, p *roster.Person) *person {
	v := &person{
		ID: p.ID, Name: p.Name(), Language: p.Language, Speaks: roster.LanguageName(p.Language), Unit: r.UnitPath(p.Unit),
		Groups: []string{}, About: []string{}, Barred: []string{}, Wish: p.Wish, Notes: p.Notes,
	}
	at, _ := r.Position(p.ID)
	for _, g := range r.GroupsOf(at) {
		if group, ok := r.Group(g); ok {
			v.Groups = append(v.Groups, group.Name)
		}
	}
	for _, tie := range r.Dependents(at) {
		dependent := r.Person(tie.Dependent)
		switch {
		case dependent == nil:
		case tie.Barred:
			v.Barred = append(v.Barred, dependent.Name())
		default:
			v.About = append(v.About, dependent.Name())
		}
	}
	return v
}

func (s *Area) done(ctx context.Context, err error) (*struct{}, error) {
	return nil, s.Problem(ctx, err)
}

func (s *Area) read(ctx context.Context, in *ThreadID) (*struct{}, error) {
	return s.done(ctx, s.Desks.Read(ctx, in.ID, route.By(ctx)))
}

func (s *Area) here(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		Writing bool `json:"writing"`
	}
}) (*struct{}, error) {
	return s.done(ctx, s.Desks.Here(ctx, in.ID, in.Body.Writing, route.By(ctx)))
}

func (s *Area) settle(ctx context.Context, in *ThreadID) (*struct{}, error) {
	return s.done(ctx, s.Desks.Settle(ctx, in.ID, route.By(ctx)))
}

func (s *Area) back(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		At time.Time `json:"at"`
	}
}) (*struct{}, error) {
	return s.done(ctx, s.Desks.BringBack(ctx, in.ID, in.Body.At, route.By(ctx)))
}

func (s *Area) leave(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		Note string `json:"note" maxLength:"500" doc:"For the next shift; it stays inside"`
	}
}) (*struct{}, error) {
	return s.done(ctx, s.Desks.LeaveForNextShift(ctx, in.ID, in.Body.Note, route.By(ctx)))
}

func (s *Area) hand(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		Account int64 `json:"account" doc:"Who looks after it from now on; 0 for nobody"`
	}
}) (*struct{}, error) {
	return s.done(ctx, s.Desks.Hand(ctx, in.ID, in.Body.Account, route.By(ctx)))
}

func (s *Area) note(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		Text string `json:"text" maxLength:"5000"`
	}
}) (*struct{}, error) {
	return s.done(ctx, s.Desks.Note(ctx, in.ID, in.Body.Text, route.By(ctx)))
}

func (s *Area) identify(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		Person roster.PersonID `json:"person"`
	}
}) (*route.Body[route.Made], error) {
	id, err := s.Desks.Identify(ctx, in.ID, in.Body.Person, route.By(ctx))
	return route.Answer(route.Made{ID: id}), s.Problem(ctx, err)
}

type naming struct {
	Naming bool `json:"naming,omitempty" doc:"Lines that name somebody of the roster may go to the translation service"`
}

type copiesLeft struct {
	Left     int    `json:"left" doc:"What came in and cannot be read in the desk's language"`
	Withheld int    `json:"withheld" doc:"Lines that name somebody and were not sent to the service"`
	Note     string `json:"note" doc:"Why"`
}

func (s *Area) readCopies(ctx context.Context, in *struct {
	ThreadID
	Body naming
}) (*route.Body[copiesLeft], error) {
	left, err := s.Desks.ReadCopies(ctx, in.ID, in.Body.Naming, route.By(ctx))
	return route.Answer(copiesLeft{left.Entries, left.Withheld, left.Note}), s.Problem(ctx, err)
}

type answerCopy struct {
	Language string   `json:"language" doc:"BCP 47; empty when they read what the desk writes"`
	Speaks   string   `json:"speaks"`
	Text     string   `json:"text" doc:"Empty while a line of it is missing"`
	Checked  bool     `json:"checked" doc:"A person checked every line of it before"`
	Doubts   []string `json:"doubts"`
	Note     string   `json:"note" doc:"Why there is none"`
	Withheld int      `json:"withheld" doc:"Lines that name somebody"`
}

func (s *Area) copy(ctx context.Context, in *struct {
	ThreadID
	Body struct {
		Text   string `json:"text" maxLength:"10000"`
		Naming bool   `json:"naming,omitempty"`
	}
}) (*route.Body[answerCopy], error) {
	c, err := s.Desks.Copy(ctx, in.ID, in.Body.Text, in.Body.Naming, route.By(ctx))
	v := answerCopy{
		Language: c.Language, Speaks: c.Speaks, Text: c.Text, Checked: c.Checked, Doubts: []string{}, Note: c.Note,
		Withheld: c.Withheld,
	}
	for _, d := range c.Doubts {
		v.Doubts = append(v.Doubts, wording.Doubt(d))
	}
	return route.Answer(v), s.Problem(ctx, err)
}

type saidBody struct {
	Text       string            `json:"text" maxLength:"10000"`
	Copy       string            `json:"copy,omitempty" maxLength:"20000" doc:"In their language, as which it leaves"`
	Channel    roster.Channel    `json:"channel,omitempty" doc:"Where it goes, if not where they last wrote from"`
	Address    string            `json:"address,omitempty" maxLength:"254"`
	Files      []attachment.File `json:"files,omitempty" maxItems:"20" doc:"That go with an email"`
	Interrupts bool              `json:"interrupts,omitempty" doc:"A push stays until it is touched"`
	Seen       int64             `json:"seen,omitempty" minimum:"0" doc:"The last entry that was seen: an answer of a colleague since then refuses this one"`
}

func (b saidBody) said() service.Said {
	return service.Said{Text: b.Text, Copy: b.Copy, Channel: b.Channel, Address: b.Address, Files: b.Files, Seen: b.Seen,
		Interrupts: b.Interrupts,
	}
}

type weighedView struct {
	Parts  int    `json:"parts" doc:"Of a text"`
	Cost   string `json:"cost" doc:"Empty for nothing"`
	Reason string `json:"reason" doc:"Why it cannot be sent; empty when it can"`
}

func (s *Area) weigh(ctx context.Context, in *struct {
	ThreadID
	Body saidBody
}) (*route.Body[weighedView], error) {
	w, err := s.Desks.Weigh(ctx, in.ID, in.Body.said(), route.By(ctx))
	return route.Answer(weighedView{Parts: w.Parts, Cost: w.Cost}), s.Problem(ctx, err)
}

type answerView struct {
	Message int64 `json:"message" doc:"By which it can be taken back"`
}

func (s *Area) answer(ctx context.Context, in *struct {
	ThreadID
	Body saidBody
}) (*route.Body[answerView], error) {
	id, err := s.Desks.Answer(ctx, in.ID, in.Body.said(), route.By(ctx))
	return route.Answer(answerView{Message: id}), s.Problem(ctx, err)
}

type takenBack struct {
	Text  string            `json:"text" doc:"What was written"`
	Files []attachment.File `json:"files"`
}

func (s *Area) takeBack(ctx context.Context, in *struct {
	ThreadID
	Body answerView
}) (*route.Body[takenBack], error) {
	e, err := s.Desks.TakeBack(ctx, in.ID, in.Body.Message, route.By(ctx))
	return route.Answer(takenBack{e.Said, append([]attachment.File{}, e.Files...)}), s.Problem(ctx, err)
}

func (s *Area) addFile(ctx context.Context, in *struct {
	ThreadID
	Name    string `query:"name" required:"true" minLength:"1" maxLength:"1000"`
	RawBody []byte `contentType:"application/octet-stream"`
}) (*route.Body[attachment.File], error) {
	f, err := s.Desks.AddFile(ctx, in.ID, filepath.Base(in.Name), in.RawBody, route.By(ctx))
	return route.Answer(f), s.Problem(ctx, err)
}

func (s *Area) file(ctx context.Context, in *struct {
	ThreadID
	Hash string `path:"hash" pattern:"^[0-9a-f]{64}$"`
}) (*route.File, error) {
	f, content, err := s.Desks.File(ctx, in.ID, in.Hash, route.By(ctx))
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Shown(f.Name, f.Type, content), nil
}
