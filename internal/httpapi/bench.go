package httpapi

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/readaloud"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
)

type benchItem struct {
	standin.Item
	Parts []string `json:"parts" doc:"A text as the network carries it"`
}

type carrierView struct {
	Channel roster.Channel `json:"channel"`
	Down    bool           `json:"down"`
	Until   *time.Time     `json:"until,omitempty" doc:"Until when it is down; absent until it is brought up"`
}

func (s *server) benchRoutes(api huma.API) {
	route.Get(
		api, "/bench/people/{id}", "received", "What somebody's phone and mailbox got",
		s.received, access.SeePeople,
	)
	route.Get(
		api, "/bench/people/{id}/faults", "faults", "What is wrong with somebody's addresses", s.faults, access.SeePeople,
	)
	route.Put(
		api, "/bench/people/{id}/faults", "set-fault", "Let an address of somebody's behave badly, or well again",
		s.setFault, access.ChangeSettings,
	)
	route.Add(api, route.New(
		http.MethodGet, "/bench/people/{id}/files/{hash}", "received-file", "A file that came to somebody", access.SeePeople,
	).Gives("application/octet-stream"), s.receivedFile)
	route.Post(
		api, "/bench/people/{id}/press", "press-key", "Press a key of a call that somebody got", s.press,
		access.ChangeSettings,
	)
	route.Add(api, route.New(
		http.MethodPost, "/bench/people/{id}/answer", "bench-answer", "Answer a text or an email that somebody got",
		access.ChangeSettings,
	).Takes(8<<20), s.answerItem)
	route.Add(api, route.New(
		http.MethodPost, "/bench/write", "bench-write", "Let an address write to the organisation, or call it",
		access.ChangeSettings,
	).Takes(8<<20), s.writeToUs)
	route.Get(api, "/bench/carriers", "carriers", "The stand-in carriers", s.carriers, access.SeePeople)
	route.Put(
		api, "/bench/carriers", "set-carrier", "Take a stand-in carrier down, or up again",
		s.setCarrier, access.ChangeSettings,
	)
	route.Get(api, "/bench/weather", "weather", "How the stand-ins' world behaves", s.weather, access.SeePeople)
	route.Put(
		api, "/bench/weather", "set-weather", "Let the stand-ins' world behave otherwise from now on",
		s.setWeather, access.ChangeSettings,
	)
}

// bench is what the stand-ins received; nil while they do not run.
func (s *server) bench() Bench {
	if s.Options.Bench == nil {
		return nil
	}
	return s.Options.Bench()
}

func noBench() error {
	return huma.Error404NotFound("The stand-ins do not run here, so there is no bench.")
}

func (s *server) received(ctx context.Context, in *OfPerson) (*route.Body[[]benchItem], error) {
	p, bench, err := s.theirs(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	items, err := bench.Received(ctx, valuesOf(p))
	out := []benchItem{}
	for _, i := range items {
		i.From = phone.Display(i.From)
		one := benchItem{Item: i, Parts: []string{}}
		if i.Channel == roster.Text {
			one.Parts = segment.Split(i.Body)
		}
		out = append(out, one)
	}
	return route.Answer(out), s.kit.Problem(ctx, err)
}

func (s *server) carriers(_ context.Context, _ *struct{}) (*route.Body[[]carrierView], error) {
	bench := s.bench()
	if bench == nil {
		return nil, noBench()
	}
	out := []carrierView{}
	for _, c := range roster.Channels {
		until := bench.Down(c)
		v := carrierView{Channel: c, Down: !until.IsZero()}
		if v.Down && until.Before(standin.Forever) {
			v.Until = &until
		}
		out = append(out, v)
	}
	return route.Answer(out), nil
}

func (s *server) setCarrier(ctx context.Context, in *struct {
	Body struct {
		Channel roster.Channel `json:"channel"`
		Down    bool           `json:"down"`
		Minutes int            `json:"minutes,omitempty" minimum:"0" maximum:"1440" doc:"For how long; 0 until it is brought up"`
	}
}) (*route.Body[[]carrierView], error) {
	bench := s.bench()
	if bench == nil {
		return nil, noBench()
	}
	until := time.Time{}
	if in.Body.Down {
		until = standin.Forever
		if in.Body.Minutes > 0 {
			until = s.Now().Add(time.Duration(in.Body.Minutes) * time.Minute)
		}
	}
	if err := bench.SetDown(ctx, in.Body.Channel, until); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	return s.carriers(ctx, nil)
}

type weatherKind struct {
	Kind  standin.Kind `json:"kind"`
	Words []string     `json:"words" doc:"What it means"`
}

type weatherView struct {
	Kind  standin.Kind  `json:"kind"`
	Seed  int64         `json:"seed" doc:"The same seed lets the same happen to the same addresses"`
	Kinds []weatherKind `json:"kinds"`
}

func (s *server) weather(_ context.Context, _ *struct{}) (*route.Body[weatherView], error) {
	bench := s.bench()
	if bench == nil {
		return nil, noBench()
	}
	now := bench.Weather()
	v := weatherView{Kind: now.Kind, Seed: now.Seed}
	for _, k := range standin.Kinds {
		v.Kinds = append(v.Kinds, weatherKind{k, k.Words()})
	}
	return route.Answer(v), nil
}

func (s *server) setWeather(ctx context.Context, in *struct{ Body standin.Weather }) (*route.Body[weatherView], error) {
	bench := s.bench()
	if bench == nil {
		return nil, noBench()
	}
	if err := bench.SetWeather(ctx, in.Body); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	return s.weather(ctx, nil)
}

func (s *server) receivedFile(ctx context.Context, in *struct {
	OfPerson
	Hash string `path:"hash" maxLength:"64"`
}) (*route.File, error) {
	p, bench, err := s.theirs(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	f, content, err := bench.File(ctx, valuesOf(p), in.Hash)
	if errors.Is(err, standin.ErrGone) {
		err = store.ErrNotFound
	}
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	return route.Attached(f.Name, content), nil
}

func (s *server) answerItem(ctx context.Context, in *struct {
	OfPerson
	Body struct {
		Key       string                 `json:"key" maxLength:"200" doc:"Of what they got"`
		Text      string                 `json:"text" maxLength:"5000"`
		Files     []carrier.GatewayMedia `json:"files,omitempty" maxItems:"5"`
		Automatic bool                   `json:"automatic,omitempty" doc:"An answering program writes it"`
	}
}) (*struct{}, error) {
	p, bench, err := s.theirs(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	err = bench.Answer(ctx, valuesOf(p), in.Body.Key, standin.Written{
		Text: in.Body.Text, Files: in.Body.Files, Automatic: in.Body.Automatic,
	})
	if errors.Is(err, standin.ErrGone) {
		err = store.ErrNotFound
	}
	return nil, s.kit.Problem(ctx, err)
}

// writeToUs lets any address write: of somebody who is seen, or of nobody on the roster.
func (s *server) writeToUs(ctx context.Context, in *struct {
	Body struct {
		Channel roster.Channel         `json:"channel" enum:"email,text,voice"`
		From    string                 `json:"from" maxLength:"200" doc:"A number or a mailbox; any that is nobody's, too"`
		Subject string                 `json:"subject,omitempty" maxLength:"200"`
		Text    string                 `json:"text" maxLength:"5000" doc:"What a call says after the beep"`
		Files   []carrier.GatewayMedia `json:"files,omitempty" maxItems:"5"`
	}
}) (*struct{}, error) {
	bench := s.bench()
	if bench == nil {
		return nil, noBench()
	}
	b := in.Body
	if strings.TrimSpace(b.Text) == "" && (len(b.Files) == 0 || b.Channel == roster.Voice) {
		return nil, huma.Error422UnprocessableEntity("There is nothing to send yet.")
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	from, to, err := ends(o, b.Channel, b.From)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("Nothing was sent: " + err.Error() + ".")
	}
	if err := s.maySpeakFor(ctx, from); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	w := standin.Written{Subject: b.Subject, Text: b.Text, Files: b.Files}
	if b.Channel == roster.Voice {
		w, err = spoken(ctx, b.Text, o.Language)
	}
	if err == nil {
		err = bench.Write(ctx, b.Channel, from, to, w)
	}
	return nil, s.kit.Problem(ctx, err)
}

// ends are the address that writes to an organisation, as it is kept, and the one to which
// it writes.
func ends(o store.Organisation, channel roster.Channel, typed string) (from, to string, err error) {
	if channel == roster.Email {
		from, err = entry.Mailbox(entry.Clean(typed))
		return from, o.MailFrom, err
	}
	from, err = phone.Parse(typed, o.Region)
	return from, o.NumberFrom, err
}

// maySpeakFor refuses an address of somebody whom the account does not see.
func (s *server) maySpeakFor(ctx context.Context, address string) error {
	seen, err := s.kit.Roster(ctx)
	if err != nil {
		return err
	}
	whole, err := s.Store.Roster(ctx)
	if err != nil {
		return err
	}
	if len(seen.Holders(address)) == 0 && len(whole.Holders(address)) > 0 {
		return store.ErrNotFound
	}
	return nil
}

// spoken is what a voice leaves after the beep.
func spoken(ctx context.Context, text, tag string) (standin.Written, error) {
	sound, err := readaloud.Say(ctx, text, tag, plan.WordsPerMinute(tag))
	beep := carrier.GatewayMedia{Name: "after the beep.wav", Type: "audio/wav", Content: sound}
	return standin.Written{Files: []carrier.GatewayMedia{beep}}, err
}

func (s *server) press(ctx context.Context, in *struct {
	OfPerson
	Body struct {
		Key     string `json:"key" maxLength:"200" doc:"Of the call"`
		Pressed string `json:"pressed" maxLength:"1"`
	}
}) (*struct{}, error) {
	p, bench, err := s.theirs(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	err = bench.Press(ctx, valuesOf(p), in.Body.Key, in.Body.Pressed)
	if errors.Is(err, standin.ErrGone) {
		return nil, huma.Error422UnprocessableEntity("This call was not received, or this key does nothing in it.")
	}
	return nil, s.kit.Problem(ctx, err)
}

type faultView struct {
	Channel roster.Channel `json:"channel"`
	Address string         `json:"address"`
	Shown   string         `json:"shown"`
	Fault   standin.Fault  `json:"fault" enum:"gone,full,no-answer,machine," doc:"Its own; empty for none"`
}

type OfPerson struct {
	ID roster.PersonID `path:"id"`
}

// theirs is somebody's entry, and the stand-ins.
func (s *server) theirs(ctx context.Context, id roster.PersonID) (*roster.Person, Bench, error) {
	bench := s.bench()
	if bench == nil {
		return nil, nil, noBench()
	}
	r, err := s.kit.Roster(ctx)
	if err != nil {
		return nil, nil, s.kit.Problem(ctx, err)
	}
	p := r.Person(id)
	if p == nil {
		return nil, nil, s.kit.Problem(ctx, store.ErrNotFound)
	}
	return p, bench, nil
}

func (s *server) faults(ctx context.Context, in *OfPerson) (*route.Body[[]faultView], error) {
	p, bench, err := s.theirs(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	known := bench.FaultsOf(valuesOf(p))
	out := []faultView{}
	for _, a := range p.Addresses {
		shown := phone.Display(a.Value)
		if a.Channel == roster.Push {
			shown = a.Value
		}
		out = append(out, faultView{a.Channel, a.Value, shown, known[a.Value]})
	}
	return route.Answer(out), nil
}

func valuesOf(p *roster.Person) []string {
	var list []string
	for _, a := range p.Addresses {
		list = append(list, a.Value)
	}
	return list
}

func (s *server) setFault(ctx context.Context, in *struct {
	OfPerson
	Body struct {
		Address string        `json:"address"`
		Fault   standin.Fault `json:"fault" enum:"gone,full,no-answer,machine," doc:"Empty for none"`
	}
}) (*route.Body[[]faultView], error) {
	p, bench, err := s.theirs(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	if !slices.Contains(valuesOf(p), in.Body.Address) {
		return nil, huma.Error422UnprocessableEntity("This is no address of theirs; nothing was changed.")
	}
	if err := bench.SetFault(ctx, in.Body.Address, in.Body.Fault); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	return s.faults(ctx, &in.OfPerson)
}
