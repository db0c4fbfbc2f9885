package office

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/docs/gateways"
	"upperlantern/internal/carrier"
	"upperlantern/internal/carriers"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/carrying"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/dispatch"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/store"
)

// Started is what the program was started with, which wins over the settings.
type Started struct {
	StandIns bool                      // they carry everything
	Named    bool                      // it names a carrier
	Channels map[roster.Channel]string // the carriers' addresses, without passwords
}

// Conditions are how carriers are.
type Conditions interface {
	Conditions(channel roster.Channel) map[int64]dispatch.Condition
}

type carriersView struct {
	StandIns bool               `json:"standIns" doc:"They carry everything: nobody is really written to"`
	Fixed    bool               `json:"fixed" doc:"Because the program was started so, or named carriers: no setting changes it"`
	Channels []carriedView      `json:"channels"`
	Mailbox  string             `json:"mailbox" doc:"That emails are from"`
	Number   string             `json:"number" doc:"That texts and calls are from"`
	PushKey  string             `json:"pushKey" doc:"By which push services know the program, base64url"`
	Places   []string           `json:"places" doc:"What may stand in templates between { and }"`
	Examples []gateways.Example `json:"examples"`
}

type carriedView struct {
	Channel roster.Channel   `json:"channel"`
	Started string           `json:"started" doc:"The carrier that the program was started with, or empty"`
	Today   int              `json:"today" doc:"Deliveries taken today by what is no setting"`
	Off     bool             `json:"off" doc:"Nothing carries it"`
	Trouble *carrierTrouble  `json:"trouble,omitempty" doc:"Of what is no setting"`
	List    []ownCarrierView `json:"list" doc:"The organisation's own, in the order in which they are tried"`
}

type carrierTrouble struct {
	Detail  string    `json:"detail"`
	Since   time.Time `json:"since"`
	RetryAt time.Time `json:"retryAt"`
}

type ownCarrierView struct {
	ID       int64           `json:"id"`
	Setup    carrying.Setup  `json:"setup"`
	Password bool            `json:"password" doc:"There is one"`
	Token    bool            `json:"token" doc:"There is one"`
	Reports  bool            `json:"reports" doc:"There is a secret with which it signs its reports"`
	Sealed   bool            `json:"sealed" doc:"Its secrets cannot be opened, so that it rests until they are typed again"`
	Readable bool            `json:"readable" doc:"Secrets and messages travel so that others on the way can read them"`
	Lines    []carrying.Line `json:"lines" doc:"To publish for the domain of the mailbox"`
	TriedAt  *time.Time      `json:"triedAt,omitempty"`
	Tried    string          `json:"tried" doc:"What was wrong with the last trial, or empty"`
	Today    int             `json:"today" doc:"Deliveries taken today"`
	Used     bool            `json:"used" doc:"Deliveries are handed to it, or would be after those before it"`
	Next     bool            `json:"next" doc:"It takes the next delivery"`
	Trouble  *carrierTrouble `json:"trouble,omitempty"`
}

type verdictView struct {
	carrying.Verdict
	Passed bool   `json:"passed"`
	Words  string `json:"words"`
}

func (s *Area) carrierRoutes(api huma.API) {
	const path = "/settings/carriers"
	route.Get(api, path, "office-carriers", "How messages leave", s.carriers, access.ChangeSettings)
	route.Post(api, path, "save-carrier", "Add a carrier, or change one", s.saveCarrier, access.ChangeSettings)
	route.Del(api, path+"/{id}", "drop-carrier", "Delete a carrier", s.dropCarrier, access.ChangeSettings)
	route.Post(api, path+"/{id}/first", "first-carrier", "Make a carrier the first of its channel", s.firstCarrier, access.ChangeSettings)
	route.Post(api, path+"/{id}/key", "sign-mail", "Make a key with which emails are signed", s.signMail, access.ChangeSettings)
	route.Add(api, route.New(
		http.MethodPost, path+"/{id}/trial", "trial-carrier", "Hand a trial to a carrier", access.ChangeSettings,
	).Small(), s.trialCarrier)
	route.Put(
		api, path+"/try-out", "try-out", "Let the stand-ins take everything, or the carriers", s.tryOut,
		access.ChangeSettings,
	)
	route.Post(
		api, path+"/results", "mail-results", "Read what a mail server found of an email that it took", s.mailResults,
		access.ChangeSettings,
	)
}

func (s *Area) carriers(ctx context.Context, _ *struct{}) (*route.Body[carriersView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	known, err := s.Carriers.List(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	troubles, err := s.Store.Troubles(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := carriersView{
		StandIns: s.Started.StandIns || o.StandIns && !s.Started.Named, Fixed: s.Started.Named,
		Channels: []carriedView{}, Mailbox: o.MailFrom, Number: o.NumberFrom, PushKey: o.PushKeys.Public,
		Places: carrying.Places, Examples: gateways.Examples(),
	}
	for _, channel := range roster.Channels {
		now := s.Conditions.Conditions(channel)
		v := carriedView{
			Channel: channel, Started: s.Started.Channels[channel], Today: now[0].Taken, Off: len(now) == 0,
			Trouble: troubleAt(troubles, channel, 0), List: []ownCarrierView{},
		}
		for _, k := range known {
			if k.Setup.Channel == channel {
				v.List = append(v.List, viewCarrier(k, o, now, troubleAt(troubles, channel, k.ID)))
			}
		}
		out.Channels = append(out.Channels, v)
	}
	return route.Answer(out), nil
}

func troubleAt(list []store.Trouble, channel roster.Channel, id int64) *carrierTrouble {
	at := slices.IndexFunc(list, func(t store.Trouble) bool { return t.Channel == channel && t.Carrier == id })
	if at < 0 {
		return nil
	}
	return &carrierTrouble{Detail: list[at].Detail, Since: list[at].Since, RetryAt: list[at].RetryAt}
}

func viewCarrier(
	k carriers.Known, o store.Organisation, now map[int64]dispatch.Condition, trouble *carrierTrouble,
) ownCarrierView {
	condition, used := now[k.ID]
	v := ownCarrierView{
		ID: k.ID, Setup: k.Setup, Password: k.Password, Token: k.Token, Reports: k.Reports, Sealed: k.Sealed,
		Readable: k.Setup.Readable(), Lines: []carrying.Line{}, Tried: k.Tried, Today: condition.Taken,
		Used: used, Next: condition.Next, Trouble: trouble,
	}
	if !k.TriedAt.IsZero() {
		v.TriedAt = &k.TriedAt
	}
	if server := k.Setup.Server; server != nil {
		v.Lines = append(v.Lines, carrying.Lines(o.MailFrom, server.Host, server.Selector, k.Public)...)
	}
	return v
}

func (s *Area) saveCarrier(ctx context.Context, in *struct {
	Body struct {
		ID    int64          `json:"id,omitempty" doc:"Absent for a new one"`
		Setup carrying.Setup `json:"setup"`
		Given carriers.Given `json:"given,omitempty"`
	}
}) (*route.Body[carriersView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if _, err := s.Carriers.Save(ctx, route.By(ctx), in.Body.ID, in.Body.Setup, in.Body.Given); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.carriers(ctx, nil)
}

type carrierPath struct {
	ID int64 `path:"id"`
}

func (s *Area) dropCarrier(ctx context.Context, in *carrierPath) (*struct{}, error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	return nil, s.Problem(ctx, s.Carriers.Drop(ctx, route.By(ctx), in.ID))
}

func (s *Area) firstCarrier(ctx context.Context, in *carrierPath) (*route.Body[carriersView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if err := s.Carriers.First(ctx, route.By(ctx), in.ID); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.carriers(ctx, nil)
}

func (s *Area) signMail(ctx context.Context, in *carrierPath) (*route.Body[carriersView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if err := s.Carriers.Sign(ctx, route.By(ctx), in.ID); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.carriers(ctx, nil)
}

func (s *Area) trialCarrier(ctx context.Context, in *struct {
	ID   int64 `path:"id"`
	Body struct {
		To string `json:"to" maxLength:"320" doc:"A mailbox or a number, as the channel has it"`
	}
}) (*route.Body[carriersView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if err := s.Carriers.Try(ctx, route.By(ctx), in.ID, in.Body.To); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.carriers(ctx, nil)
}

func (s *Area) tryOut(ctx context.Context, in *route.Body[struct {
	StandIns bool `json:"standIns"`
}]) (*route.Body[carriersView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	if s.Started.Named {
		return nil, huma.Error409Conflict("The program was started with its carriers named; no setting changes that.")
	}
	if err := s.Carriers.TryOut(ctx, route.By(ctx), in.Body.StandIns); err != nil {
		return nil, s.Problem(ctx, err)
	}
	return s.carriers(ctx, nil)
}

func (s *Area) mailResults(ctx context.Context, in *route.Body[struct {
	Source string `json:"source" maxLength:"200000" doc:"The email's source, or its header"`
}]) (*route.Body[[]verdictView], error) {
	if err := s.whole(ctx); err != nil {
		return nil, err
	}
	found, err := carrier.ReadResults(in.Body.Source)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	out := make([]verdictView, len(found))
	for i, v := range found {
		out[i] = verdictView{Verdict: v, Passed: v.Passed(), Words: v.Words()}
	}
	return route.Answer(out), nil
}
