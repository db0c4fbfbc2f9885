// Package carriers sets the organisation's carriers up, tries them, and makes of them
// what deliveries are handed to.
package carriers

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/carrying"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/dispatch"
	"upperlantern/internal/seal"
	"upperlantern/internal/store"
)

// Store is where carriers are kept.
type Store interface {
	Organisation(context.Context) (store.Organisation, error)
	ChangeOrganisation(ctx context.Context, account int64, o store.Organisation, said string, now time.Time) error
	Carriers(context.Context) ([]store.Carrier, error)
	SaveCarrier(ctx context.Context, account int64, c store.Carrier, said string, now time.Time) (int64, error)
	DropCarrier(ctx context.Context, account, id int64, said string, now time.Time) error
	OrderCarriers(
		ctx context.Context, account int64, channel roster.Channel, ids []int64, said string, now time.Time,
	) error
	CarrierTried(ctx context.Context, id int64, problem string, now time.Time) error
}

// Service works on the organisation's carriers.
type Service struct {
	Store   Store
	Key     seal.Key
	Reports string // the URL at which gateways report
	Now     func() time.Time
	// Changed exchanges what deliveries are handed to.
	Changed func(context.Context) error
}

// ErrNot means that something cannot be done with a carrier; the error says why.
var ErrNot = errors.New("this was not done")

// Secrets are what a carrier asks for, and what nobody else is to know.
type Secrets struct {
	Password string `json:"password,omitempty"` // of a mail server's user
	Token    string `json:"token,omitempty"`    // of a gateway
	Reports  string `json:"reports,omitempty"`  // with which a gateway signs its reports
	Signing  string `json:"signing,omitempty"`  // the DKIM key, PEM
}

// Given are secrets that somebody typed; nil keeps what there was.
type Given struct {
	Password *string `json:"password,omitempty" maxLength:"1000" doc:"Of the mail server's user; absent keeps it"`
	Token    *string `json:"token,omitempty" maxLength:"4000" doc:"Of the gateway; absent keeps it"`
	Reports  *string `json:"reports,omitempty" maxLength:"1000" doc:"With which the gateway signs its reports; absent keeps it"`
}

func (s Secrets) with(g Given) Secrets {
	for _, one := range []struct {
		typed *string
		into  *string
	}{{g.Password, &s.Password}, {g.Token, &s.Token}, {g.Reports, &s.Reports}} {
		if one.typed != nil {
			*one.into = strings.TrimSpace(*one.typed)
		}
	}
	return s
}

// Known is a carrier with what may be shown of its secrets.
type Known struct {
	store.Carrier
	Password, Token, Reports bool   // whether there is one
	Public                   string // the half of the DKIM key that is published, or ""
	Sealed                   bool   // its secrets cannot be opened: they are asked for again
}

// List is the organisation's carriers, each channel's in their order.
func (s *Service) List(ctx context.Context) ([]Known, error) {
	kept, err := s.Store.Carriers(ctx)
	list := make([]Known, len(kept))
	for i, c := range kept {
		k := Known{Carrier: c}
		secrets, err := s.open(c)
		if err != nil {
			k.Sealed = true
		}
		k.Password, k.Token, k.Reports = secrets.Password != "", secrets.Token != "", secrets.Reports != ""
		if secrets.Signing != "" {
			_, k.Public, _ = carrier.ReadSigningKey(secrets.Signing)
		}
		list[i] = k
	}
	return list, err
}

func (s *Service) open(c store.Carrier) (Secrets, error) {
	var secrets Secrets
	text, err := s.Key.Open(c.Secrets)
	if err != nil {
		return secrets, fmt.Errorf("the secrets of “%s”: %w", c.Setup.Name, err)
	}
	return secrets, json.Unmarshal(text, &secrets)
}

func (s *Service) seal(secrets Secrets) ([]byte, error) {
	text, err := json.Marshal(secrets)
	if err != nil {
		return nil, err
	}
	return s.Key.Seal(text)
}

// find is one carrier.
func (s *Service) find(ctx context.Context, id int64) (store.Carrier, error) {
	kept, err := s.Store.Carriers(ctx)
	if err != nil {
		return store.Carrier{}, err
	}
	at := slices.IndexFunc(kept, func(c store.Carrier) bool { return c.ID == id })
	if at < 0 {
		return store.Carrier{}, store.ErrNotFound
	}
	return kept[at], nil
}

// Save adds a carrier, or changes the one with an identifier. Its channel stays.
func (s *Service) Save(
	ctx context.Context, by access.Principal, id int64, setup carrying.Setup, given Given,
) (int64, error) {
	setup, err := setup.Checked()
	if err != nil {
		return 0, err
	}
	c, secrets := store.Carrier{ID: id, Setup: setup}, Secrets{}
	changes := []string{"a carrier “" + setup.Name + "” for " + channelWords[setup.Channel]}
	if id != 0 {
		before, err := s.find(ctx, id)
		if err != nil {
			return 0, err
		}
		if before.Setup.Channel != setup.Channel {
			return 0, fmt.Errorf("%w: a carrier stays one of its channel; add another one", ErrNot)
		}
		if setup.Server != nil { // what only the program itself changes
			setup.Server.Selector = before.Setup.Server.Selector
		}
		secrets, err = s.open(before)
		if errors.Is(err, seal.ErrSealed) && setup.Server != nil {
			setup.Server.Selector = "" // the key behind it cannot be opened any more
		}
		changes = before.Setup.Changes(setup)
		if secrets.with(given) != secrets {
			changes = append(changes, "other secrets")
		}
		if err == nil && len(changes) == 0 {
			return id, nil
		}
		changes = []string{"carrier “" + before.Setup.Name + "”: " + strings.Join(changes, "; ")}
	} else if setup.Server != nil {
		setup.Server.Selector = ""
	}
	c.Setup = setup
	if c.Secrets, err = s.seal(secrets.with(given)); err != nil {
		return 0, err
	}
	id, err = s.Store.SaveCarrier(ctx, by.ID, c, "settings: "+strings.Join(changes, "; "), s.Now())
	if err != nil {
		return 0, err
	}
	return id, s.Changed(ctx)
}

var channelWords = map[roster.Channel]string{
	roster.Email: "emails", roster.Text: "texts", roster.Voice: "calls", roster.Push: "pushes",
}

// Drop deletes a carrier.
func (s *Service) Drop(ctx context.Context, by access.Principal, id int64) error {
	c, err := s.find(ctx, id)
	if err != nil {
		return err
	}
	said := fmt.Sprintf("settings: the carrier “%s” for %s removed", c.Setup.Name, channelWords[c.Setup.Channel])
	if err := s.Store.DropCarrier(ctx, by.ID, id, said, s.Now()); err != nil {
		return err
	}
	return s.Changed(ctx)
}

// First makes a carrier the first of its channel.
func (s *Service) First(ctx context.Context, by access.Principal, id int64) error {
	c, err := s.find(ctx, id)
	if err != nil {
		return err
	}
	kept, err := s.Store.Carriers(ctx)
	if err != nil {
		return err
	}
	order := []int64{id}
	for _, other := range kept {
		if other.Setup.Channel == c.Setup.Channel && other.ID != id {
			order = append(order, other.ID)
		}
	}
	said := fmt.Sprintf("settings: “%s” is the first carrier for %s", c.Setup.Name, channelWords[c.Setup.Channel])
	if err := s.Store.OrderCarriers(ctx, by.ID, c.Setup.Channel, order, said, s.Now()); err != nil {
		return err
	}
	return s.Changed(ctx)
}

// TryOut says whether the stand-ins carry what is sent.
func (s *Service) TryOut(ctx context.Context, by access.Principal, standIns bool) error {
	o, err := s.Store.Organisation(ctx)
	if err != nil || o.StandIns == standIns {
		return err
	}
	o.StandIns = standIns
	said := "settings: messages leave by the carriers, no more to the stand-ins"
	if standIns {
		said = "settings: the stand-ins take everything, nobody is really written to"
	}
	if err := s.Store.ChangeOrganisation(ctx, by.ID, o, said, s.Now()); err != nil {
		return err
	}
	return s.Changed(ctx)
}

// Sign makes a new DKIM key for a mail server. Emails are signed with it from now on.
func (s *Service) Sign(ctx context.Context, by access.Principal, id int64) error {
	c, err := s.find(ctx, id)
	if err != nil {
		return err
	}
	if c.Setup.Server == nil {
		return fmt.Errorf("%w: only emails are signed", ErrNot)
	}
	secrets, err := s.open(c)
	if err != nil {
		return fmt.Errorf("%w: %w; save its secrets again first", ErrNot, err)
	}
	if secrets.Signing, err = carrier.NewSigningKey(); err != nil {
		return err
	}
	server := *c.Setup.Server
	server.Selector = "lantern" + s.Now().UTC().Format("20060102150405") // another key has another name
	c.Setup.Server = &server
	if c.Secrets, err = s.seal(secrets); err != nil {
		return err
	}
	said := fmt.Sprintf("settings: carrier “%s”: emails are signed with a new key", c.Setup.Name)
	if _, err := s.Store.SaveCarrier(ctx, by.ID, c, said, s.Now()); err != nil {
		return err
	}
	return s.Changed(ctx)
}

// trialTime is how long a trial may take.
const trialTime = 30 * time.Second

// Try hands a trial to a carrier, to a mailbox or a number, and keeps what came of it.
// What the carrier said is ErrNot.
func (s *Service) Try(ctx context.Context, by access.Principal, id int64, to string) error {
	c, err := s.find(ctx, id)
	if err != nil {
		return err
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	item, err := trial(o, c.Setup, by, to)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, trialTime)
	defer cancel()
	made, err := s.carrierOf(o, c)
	if err == nil {
		err = made.Hand(ctx, item)
	}
	problem := ""
	if err != nil {
		problem = err.Error()
	}
	if kept := s.Store.CarrierTried(context.WithoutCancel(ctx), id, problem, s.Now()); kept != nil {
		return kept
	}
	if err != nil {
		return fmt.Errorf("%w: %w", ErrNot, err)
	}
	return nil
}

// trial is what a carrier is tried with.
func trial(o store.Organisation, setup carrying.Setup, by access.Principal, to string) (carrier.Item, error) {
	item := carrier.Item{
		Key: rand.Text(), Language: "en", Subject: "A trial of " + setup.Name,
		Body: fmt.Sprintf("This is a trial of “%s”. %s of %s tries whether it takes messages.", setup.Name, by.Name, o.Name),
	}
	var err error
	if setup.Channel == roster.Email {
		item.From, item.FromName = o.MailFrom, o.MailName
		item.To, err = entry.Mailbox(entry.Clean(to))
	} else {
		item.From = o.NumberFrom
		item.To, err = phone.Parse(entry.Clean(to), o.Region)
	}
	if err != nil {
		return item, fmt.Errorf("%w: %w", ErrNot, err)
	}
	return item, nil
}

// Lines are the organisation's carriers as deliveries are handed to them, and the
// secrets with which gateways sign reports. One whose secrets cannot be opened rests.
func (s *Service) Lines(ctx context.Context, o store.Organisation) (lines dispatch.Lines, secrets []string, err error) {
	kept, err := s.Store.Carriers(ctx)
	if err != nil {
		return nil, nil, err
	}
	lines = dispatch.Lines{}
	for _, c := range kept {
		opened, err := s.open(c)
		if err != nil {
			continue
		}
		if opened.Reports != "" { // also of one that rests: what it took before is reported later
			secrets = append(secrets, opened.Reports)
		}
		if c.Setup.Rests {
			continue
		}
		made, err := s.carrierOf(o, c)
		if err != nil {
			return nil, nil, err
		}
		lines[c.Setup.Channel] = append(lines[c.Setup.Channel], dispatch.Post{
			ID: c.ID, Name: c.Setup.Name, Carrier: made, PerSecond: c.Setup.PerSecond, PerDay: c.Setup.PerDay,
			PerDomain: c.Setup.PerDomain,
		})
	}
	return lines, secrets, nil
}

func (s *Service) carrierOf(o store.Organisation, c store.Carrier) (dispatch.Carrier, error) {
	secrets, err := s.open(c)
	if err != nil {
		return nil, err
	}
	if c.Setup.Server != nil {
		return mailOf(o, *c.Setup.Server, secrets)
	}
	what := "gateway “" + c.Setup.Name + "”"
	if c.Setup.Gateway.Template == "" {
		return carrier.NewGateway(what, c.Setup.Gateway.URL, secrets.Token, s.Reports), nil
	}
	t, err := carrying.ParseTemplate(c.Setup.Gateway.Template)
	if err != nil {
		return nil, fmt.Errorf("the carrier “%s”: %w", c.Setup.Name, err)
	}
	return carrier.NewTemplated(what, t, secrets.Token, s.Reports), nil
}

var schemes = map[carrying.Security]string{
	carrying.StartTLS: "smtp+starttls", carrying.TLS: "smtps", carrying.Open: "smtp",
}

func mailOf(o store.Organisation, server carrying.Server, secrets Secrets) (dispatch.Carrier, error) {
	at := url.URL{
		Scheme: schemes[server.Security], Host: net.JoinHostPort(server.Host, strconv.Itoa(server.Port)),
	}
	if server.User != "" {
		at.User = url.UserPassword(server.User, secrets.Password)
	}
	made, err := carrier.NewMail(at.String(), o.ReturnDomain, o.Secret)
	if err != nil {
		return nil, err
	}
	_, domain, ok := strings.Cut(o.MailFrom, "@")
	if secrets.Signing == "" || server.Selector == "" || !ok {
		return made, nil
	}
	key, _, err := carrier.ReadSigningKey(secrets.Signing)
	if err != nil {
		return nil, err
	}
	return made.Signing(domain, server.Selector, key), nil
}
