package app

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"path/filepath"
	"strings"
	"time"

	"upperlantern/internal/carrier"
	"upperlantern/internal/carriers"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/dispatch"
	"upperlantern/internal/httpapi"
	"upperlantern/internal/httpapi/office"
	"upperlantern/internal/seal"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
)

// places are where the stand-ins take what is sent.
type places struct {
	called                           string // before what the carrier of a channel is called
	mail, texts, calls, translations string
	push                             http.RoundTripper
	token, secret                    string
}

// employ makes the dispatcher, with the carriers that there are.
func (i *Instance) employ(ctx context.Context, o store.Organisation, events *httpapi.Events) error {
	key, err := seal.OpenKey(cmp.Or(i.config.KeyFile, filepath.Join(i.config.Data, seal.FileName)))
	if err != nil {
		return err
	}
	i.carriers = &carriers.Service{
		Store: i.Store, Key: key, Reports: i.reportsURL(), Now: i.config.Now, Changed: i.reline,
	}
	lines, zone, err := i.lines(ctx, o)
	if err != nil {
		return err
	}
	i.dispatcher = dispatch.New(i.Store, dispatch.Options{
		OneClick: func(key string) string { return i.Site() + httpapi.OneClickPath + carrier.OneClick(key, o.Secret) },
		Answer:   func(key string) string { return i.Site() + httpapi.AnswerPath + carrier.AnswerToken(key, o.Secret) },
		Lines:    lines, Zone: zone, Recordings: i.carrierURL() + "recordings/", Now: i.config.Now,
		Changed: events.Message, Troubled: events.Carriers, Log: i.config.Log,
	})
	return nil
}

// Site is where recipients reach the program, without a slash at its end.
func (i *Instance) Site() string {
	return strings.TrimSuffix(cmp.Or(i.config.Site, strings.TrimSuffix(i.carrierURL(), "/carrier/")), "/")
}

// reline exchanges the carriers when settings have changed.
func (i *Instance) reline(ctx context.Context) error {
	i.lining.Lock()
	defer i.lining.Unlock()
	o, err := i.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	lines, zone, err := i.lines(ctx, o)
	if err != nil {
		return err
	}
	i.dispatcher.Carry(lines, zone)
	return nil
}

// lines are the carriers of each channel: those that the program was started with, the
// stand-ins, or the organisation's own.
func (i *Instance) lines(ctx context.Context, o store.Organisation) (dispatch.Lines, *time.Location, error) {
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		return nil, nil, err
	}
	c := i.config.Carriers
	own, secrets, err := i.carriers.Lines(ctx, o)
	if err != nil {
		return nil, nil, err
	}
	at := &places{mail: c.MailServer, texts: c.TextGateway, calls: c.VoiceGateway, push: c.PushTransport, token: c.Token}
	if c.StandIns || o.StandIns && !c.named() {
		if err := i.startStandIns(); err != nil {
			return nil, nil, err
		}
		at, own = i.standIns, nil
	}
	secrets = append(secrets, c.Secret)
	if i.standIns != nil { // they report what they took after others carry
		secrets = append(secrets, i.standIns.secret)
	}
	i.secrets.Store(&secrets)
	lines, err := i.named(o, at)
	for _, channel := range roster.Channels {
		if len(lines[channel]) == 0 && own[channel] != nil {
			lines[channel] = own[channel]
		}
	}
	return lines, zone, err
}

// mailbox is the organisation's own, or "" while that cannot be read.
func (i *Instance) mailbox() string {
	o, err := i.Store.Organisation(context.Background())
	if err != nil {
		i.config.Log.Warn("the organisation's mailbox is not known", "error", err)
		return ""
	}
	return o.MailFrom
}

// mail hands an email to somebody of the office over at once.
func (i *Instance) mail(ctx context.Context, to, subject, body string) error {
	o, err := i.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	return i.dispatcher.HandNow(ctx, roster.Email, carrier.Item{
		Key: rand.Text(), To: to, From: o.MailFrom, FromName: o.MailName, Subject: subject, Body: body, Language: "en",
	})
}

// text hands a text to somebody of the office over at once.
func (i *Instance) text(ctx context.Context, number, body string) error {
	o, err := i.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	return i.dispatcher.HandNow(ctx, roster.Text, carrier.Item{
		Key: rand.Text(), To: number, From: o.NumberFrom, Body: shortened(body), Language: "en",
	})
}

// push hands a push to the devices of whoever signs in with a login, as the roster
// knows them.
func (i *Instance) push(ctx context.Context, login, subject, body string) error {
	r, err := i.Store.Roster(ctx)
	if err != nil {
		return err
	}
	p := r.Behind(login)
	if p == nil {
		return nil
	}
	for _, a := range p.Addresses {
		if a.Channel != roster.Push || a.Unconnected() || a.Health == roster.Dead {
			continue
		}
		d, failed := i.Store.Device(ctx, a.Value)
		if failed == nil {
			failed = i.dispatcher.HandNow(ctx, roster.Push, carrier.Item{
				Key: rand.Text(), To: a.Value, Subject: subject, Body: shortened(body), Language: "en", Push: carrier.Push{
					Device:  carrier.Device{Endpoint: d.Endpoint, P256dh: d.P256dh, Auth: d.Auth},
					Urgency: roster.Timely,
				},
			})
		}
		if failed != nil {
			err = errors.Join(err, fmt.Errorf("the device %q: %w", a.Value, failed))
		}
	}
	return err
}

// mostPushed is how much of a body a push to somebody of the office says, in characters.
const mostPushed = 400

func shortened(body string) string {
	if runes := []rune(body); len(runes) > mostPushed {
		return string(runes[:mostPushed-1]) + "…"
	}
	return body
}

// carrierWords are what the carriers are called that have no name of their own.
var carrierWords = map[roster.Channel]string{
	roster.Email: "mail server", roster.Text: "text gateway", roster.Voice: "voice gateway", roster.Push: "push service",
}

// named are the carriers at places that are no settings.
func (i *Instance) named(o store.Organisation, at *places) (dispatch.Lines, error) {
	perSecond, reports := i.config.Carriers.PerSecond, i.reportsURL()
	one := func(channel roster.Channel, c dispatch.Carrier) []dispatch.Post {
		return []dispatch.Post{{Name: at.called + carrierWords[channel], Carrier: c, PerSecond: perSecond[channel]}}
	}
	push := at.push
	if push == nil {
		push = carrier.PublicOnly()
	}
	lines := dispatch.Lines{roster.Push: one(roster.Push, carrier.NewWebPush(
		o.PushKeys.Private, o.PushKeys.Public, o.MailFrom, i.carrierURL()+"pushes/", push,
	))}
	if at.mail != "" {
		mail, err := carrier.NewMail(at.mail, o.ReturnDomain, o.Secret)
		if err != nil {
			return nil, err
		}
		lines[roster.Email] = one(roster.Email, mail)
	}
	if at.texts != "" {
		lines[roster.Text] = one(roster.Text, carrier.NewGateway("text gateway", at.texts, at.token, reports))
	}
	if at.calls != "" {
		lines[roster.Voice] = one(roster.Voice, carrier.NewGateway("voice gateway", at.calls, at.token, reports))
	}
	return lines, nil
}

func (i *Instance) reportsURL() string {
	return cmp.Or(i.config.Carriers.ReportsURL, i.URL+"/carrier/reports")
}

// carrierURL is below what carriers and devices reach us.
func (i *Instance) carrierURL() string { return strings.TrimSuffix(i.reportsURL(), "reports") }

func (i *Instance) reportSecrets() []string { return *i.secrets.Load() }

// started says what the program was started with, for the page of carriers.
func (i *Instance) started() office.Started {
	c := i.config.Carriers
	s := office.Started{StandIns: c.StandIns, Named: c.named(), Channels: map[roster.Channel]string{}}
	for channel, at := range map[roster.Channel]string{
		roster.Email: c.MailServer, roster.Text: c.TextGateway, roster.Voice: c.VoiceGateway,
	} {
		if u, err := url.Parse(at); at != "" && err == nil {
			s.Channels[channel] = u.Redacted()
		}
	}
	return s
}

// bench is what the stand-ins received; nil while they do not run.
func (i *Instance) bench() httpapi.Bench {
	i.lining.Lock()
	defer i.lining.Unlock()
	if i.Box == nil {
		return nil
	}
	return i.Box
}

// startStandIns starts the shipped carriers, unless they run already.
func (i *Instance) startStandIns() error {
	if i.standIns != nil {
		return nil
	}
	c, ctx := &i.config, i.running
	at := &places{called: "stand-in ", token: rand.Text(), secret: rand.Text()}
	box, err := standin.Open(c.Data, standin.Options{
		ReturnMail: i.returns, Incoming: i.carrierURL() + "incoming", Token: at.token, Secret: at.secret, Delay: c.Delay,
		Now: c.Now, Log: c.Log,
	})
	if err != nil {
		return err
	}
	mail, err := i.listenLoopback("")
	if err != nil {
		return errors.Join(err, box.Close())
	}
	gateway, err := i.listenLoopback("")
	if err != nil {
		return errors.Join(err, mail.Close(), box.Close())
	}
	i.Box, i.closes = box, append(i.closes, box.Close)
	i.serveSMTP(ctx, mail, box.MailServer())
	i.serveHTTP(ctx, gateway, box.Gateway())
	i.group.Go(func() error {
		box.Run(ctx)
		return nil
	})
	base := "http://" + gateway.Addr().String()
	at.mail, at.texts, at.calls = "smtp://"+mail.Addr().String(), base+"/texts", base+"/calls"
	at.translations, at.push = base+"/translations", standin.PushTransport(gateway.Addr().String())
	i.standIns = at
	return nil
}
