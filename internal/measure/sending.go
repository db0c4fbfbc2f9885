package measure

import (
	"context"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"upperlantern/internal/app"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
)

// start runs the whole program on a data folder, with a peer as its gateways.
func start(ctx context.Context, data, peer string) (*app.Instance, error) {
	return app.Start(ctx, config(data, peer))
}

func config(data, peer string) app.Config {
	return app.Config{
		Data: data, Address: "127.0.0.1:0", Log: slog.New(slog.DiscardHandler),
		Carriers: app.Carriers{
			MailServer: "smtp://127.0.0.1:1", TextGateway: peer, VoiceGateway: peer, Token: "token", Secret: reportSecret,
		},
	}
}

const keystrokes = 100

// typing measures planning again for every few letters, as the page asks for it.
func (b *bench) typing(ctx context.Context, data string) error {
	i, err := start(ctx, data, "")
	if err != nil {
		return err
	}
	defer i.Close() //nolint:errcheck // only read
	account, err := sender(ctx, i.Store)
	if err != nil {
		return err
	}
	draft := everybody()
	draft.Urgency = roster.Routine
	took := make([]time.Duration, keystrokes)
	people := 0
	for n := range took {
		draft.Subject = fmt.Sprintf("Outing moved %d", n)
		began := time.Now()
		w, err := i.Sending.Plan(ctx, 0, draft, account)
		if err != nil {
			return err
		}
		took[n], people = time.Since(began), w.Summary.Recipients
	}
	slices.Sort(took)
	b.say("\nplanning while typing: %d recipients", people)
	b.say(
		"  half within %s, 95 of 100 within %s (bar 60 ms)", took[keystrokes/2].Round(10*time.Microsecond),
		took[keystrokes*95/100].Round(10*time.Microsecond),
	)
	return b.copying(ctx, i, account)
}

// sending measures texts to everybody: kept, handed over and reported on, each
// beside a bare loop that does the least of it with the same peer.
func (b *bench) sending(ctx context.Context, data string) error {
	p := newPeer()
	defer p.Close()
	i, err := start(ctx, data, p.URL)
	if err != nil {
		return err
	}
	defer i.Close() //nolint:errcheck // the folder goes away
	account, err := sender(ctx, i.Store)
	if err != nil {
		return err
	}
	m, err := b.keeping(ctx, i, account)
	if err != nil {
		return err
	}
	began := time.Now()
	if err := left(ctx, i, m, func(f record.Figures) bool { return f.Here == 0 }); err != nil {
		return err
	}
	took := time.Since(began)
	list, err := i.Store.Deliveries(ctx, m)
	if err != nil {
		return err
	}
	texts, keys := make([]string, len(list)), make([]string, len(list))
	for n, d := range list {
		texts[n], keys[n] = d.Content.Body, d.Key
	}
	bare, err := b.bareHandOver(ctx, p.URL, texts)
	if err != nil {
		return err
	}
	b.say("  handed over                      %8s  %.0f a second", took.Round(time.Millisecond), rate(len(texts), took))
	b.beside("post and one row", len(texts), took, bare)

	if took, err = b.reporting(ctx, i, m, keys); err != nil {
		return err
	}
	if bare, err = b.bareReports(ctx, keys); err != nil {
		return err
	}
	b.say("  every report taken               %8s  %.0f a second", took.Round(time.Millisecond), rate(len(texts), took))
	b.beside("take the post and one row", len(texts), took, bare)
	return nil
}

func rate(n int, took time.Duration) float64 { return float64(n) / took.Seconds() }

func (b *bench) beside(what string, n int, ours, bare time.Duration) {
	b.say("  a bare loop: %-20s%8s  %.0f a second; ours is %.0f %% of its rate (bar 50 %%)", what, bare.Round(time.Millisecond), rate(n, bare),
		100*bare.Seconds()/ours.Seconds())
}

// left waits until the figures of a message are as wanted.
func left(ctx context.Context, i *app.Instance, message int64, wanted func(record.Figures) bool) error {
	for {
		f, err := i.Store.Figures(ctx, message)
		if err != nil || wanted(f) {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(5 * time.Millisecond):
		}
	}
}

// keeping measures Send, and how long others wait for the database meanwhile.
func (b *bench) keeping(ctx context.Context, i *app.Instance, by access.Principal) (int64, error) {
	w, err := i.Sending.Plan(ctx, 0, textsOnly(), by)
	if err != nil {
		return 0, err
	}
	m, err := i.Store.AddDraft(ctx, by.ID, textsOnly(), time.Now())
	if err != nil {
		return 0, err
	}
	b.say("\nsending: %d texts by HTTP over loopback, to a peer that only answers", len(w.Plan.Deliveries))
	done := make(chan struct{})
	waited := make(chan []time.Duration)
	go func() { waited <- others(ctx, i.Store, by.ID, done) }()
	began := time.Now()
	_, err = i.Sending.Send(ctx, m.ID, m.Revision, sending.Checked{Typed: w.Summary.Recipients}, by)
	took := time.Since(began)
	close(done)
	waits := <-waited
	if err != nil {
		return 0, err
	}
	slices.Sort(waits)
	b.say("  planned and kept                 %8s  %d other writes meanwhile, 99 of 100 within %s (bar 200 ms)", took.Round(time.Millisecond), len(waits),
		waits[len(waits)*99/100].Round(100*time.Microsecond))
	return m.ID, nil
}

// others keeps a draft again and again, as somebody who writes does, and returns
// how long each time took.
func others(ctx context.Context, s *store.Store, account int64, done <-chan struct{}) []time.Duration {
	waits := []time.Duration{0}
	for {
		select {
		case <-done:
			return waits
		case <-time.After(5 * time.Millisecond):
		}
		began := time.Now()
		if _, err := s.AddDraft(ctx, account, message.Draft{
			Routing: message.Routing{Urgency: roster.Routine},
		}, time.Now()); err != nil {
			return waits
		}
		waits = append(waits, time.Since(began))
	}
}

// reporting posts a signed report for each text to the program.
func (b *bench) reporting(ctx context.Context, i *app.Instance, message int64, keys []string) (time.Duration, error) {
	began := time.Now()
	if err := postReports(ctx, i.URL+"/carrier/reports", keys); err != nil {
		return 0, err
	}
	err := left(ctx, i, message, func(f record.Figures) bool { return f.Waiting == 0 })
	return time.Since(began), err
}
