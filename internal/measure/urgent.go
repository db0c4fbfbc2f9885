package measure

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"time"

	"upperlantern/internal/app"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/sending"
)

const (
	slowly   = 5 // texts a second
	stopWhen = 25
)

// watcher is a gateway that keeps when texts came that say something.
type watcher struct {
	mu    sync.Mutex
	words string
	times []time.Time
}

func (w *watcher) handler() http.Handler {
	return http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		body := make([]byte, 1<<12)
		n, _ := r.Body.Read(body)
		w.mu.Lock()
		if strings.Contains(string(body[:n]), w.words) {
			w.times = append(w.times, time.Now())
		}
		w.mu.Unlock()
		rw.WriteHeader(http.StatusAccepted)
		_, _ = fmt.Fprint(rw, `{"id":"taken"}`)
	})
}

func (w *watcher) watch(words string) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.words, w.times = words, nil
}

func (w *watcher) seen() []time.Time {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.times
}

// urgent measures how soon Stop stops and an emergency leaves, with a carrier that
// takes few texts a second and with one that takes all it gets.
func (b *bench) urgent(ctx context.Context, data string) error {
	b.say("\nStop and emergencies")
	if err := b.stopping(ctx, data); err != nil {
		return err
	}
	return b.overtaking(ctx, data)
}

func (b *bench) stopping(ctx context.Context, data string) error {
	w := &watcher{}
	gateway := httptest.NewServer(w.handler())
	defer gateway.Close()
	i, account, err := b.slow(ctx, data, gateway.URL, slowly)
	if err != nil {
		return err
	}
	defer i.Close() //nolint:errcheck // the folder goes away
	id, deliveries, err := b.sendText(ctx, i, account, roster.Routine, "bring oars")
	if err != nil {
		return err
	}
	err = left(ctx, i, id, func(f record.Figures) bool { return f.Deliveries-f.Here >= min(stopWhen, deliveries/2) })
	if err != nil {
		return err
	}
	pressed := time.Now()
	stopped, err := i.Sending.Stop(ctx, id, account)
	if err != nil {
		return err
	}
	answered := time.Since(pressed)
	last := time.Duration(0)
	time.Sleep(time.Second + time.Second/slowly) // what would still leave does by then
	for _, at := range w.seen() {
		last = max(last, at.Sub(pressed))
	}
	b.say("  Stop, %d texts at %d a second   %8s  to its answer; %d stopped, the last left %s after it (bar 1 s)", deliveries, slowly,
		answered.Round(time.Millisecond), stopped.Stopped, last.Round(time.Millisecond))
	return nil
}

func (b *bench) overtaking(ctx context.Context, data string) error {
	for _, perSecond := range []float64{slowly, 0} {
		w := &watcher{}
		gateway := httptest.NewServer(w.handler())
		i, account, err := b.slow(ctx, data, gateway.URL, perSecond)
		if err != nil {
			return err
		}
		routine, deliveries, err := b.sendText(ctx, i, account, roster.Routine, "bring oars")
		if err != nil {
			return err
		}
		w.watch("leave the path")
		pressed := time.Now()
		emergency, _, err := b.sendText(ctx, i, account, roster.Emergency, "leave the path")
		if err != nil {
			return err
		}
		for len(w.seen()) == 0 {
			time.Sleep(time.Millisecond)
		}
		first := w.seen()[0].Sub(pressed)
		b.say("  an emergency behind %d texts at %s  %8s  from Send, its plan included, to its first (bar 1 s)", deliveries, limitWords(perSecond),
			first.Round(time.Millisecond))
		for _, id := range []int64{routine, emergency} {
			if _, err := i.Sending.Stop(ctx, id, account); err != nil {
				return err
			}
		}
		gateway.Close()
		if err := i.Close(); err != nil {
			return err
		}
	}
	return nil
}

func limitWords(perSecond float64) string {
	if perSecond == 0 {
		return "full rate"
	}
	return fmt.Sprintf("%g a second", perSecond)
}

// slow runs the program with a gateway that takes so many texts a second.
func (b *bench) slow(
	ctx context.Context, data, gateway string, perSecond float64,
) (*app.Instance, access.Principal, error) {
	c := config(data, gateway)
	c.Carriers.PerSecond = map[roster.Channel]float64{roster.Text: perSecond}
	i, err := app.Start(ctx, c)
	if err != nil {
		return nil, access.Principal{}, err
	}
	account, err := sender(ctx, i.Store)
	return i, account, err
}

// sendText sends everybody a text and returns how many deliveries that makes.
func (b *bench) sendText(
	ctx context.Context, i *app.Instance, by access.Principal, urgency roster.Urgency, words string,
) (id int64, deliveries int, err error) {
	id, w, err := b.send(ctx, i, by, textDraft(urgency, words))
	if err != nil {
		return 0, 0, err
	}
	return id, w.Summary.Deliveries, nil
}

// textDraft is a text to everybody.
func textDraft(urgency roster.Urgency, words string) message.Draft {
	return message.Draft{
		Content: message.Content{Subject: words, Email: rich.Lines("{{first name}}, " + words)},
		Routing: message.Routing{
			Urgency: urgency, Reason: "measuring", Steps: precedence.Steps{{roster.Text}}, FirstOnly: true,
			Audience: audience.Audience{Receivers: audience.Both, Parts: everybody().Audience.Parts},
		},
	}
}

// send sends a draft as it is.
func (b *bench) send(
	ctx context.Context, i *app.Instance, by access.Principal, d message.Draft,
) (id int64, w *sending.Worked, err error) {
	if w, err = i.Sending.Plan(ctx, 0, d, by); err != nil {
		return 0, nil, err
	}
	m, err := i.Store.AddDraft(ctx, by.ID, d, time.Now())
	if err != nil {
		return 0, nil, err
	}
	_, err = i.Sending.Send(ctx, m.ID, m.Revision, sending.Checked{Typed: w.Summary.Recipients}, by)
	return m.ID, w, err
}
