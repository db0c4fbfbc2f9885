package measure

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"upperlantern/internal/app"
	"upperlantern/internal/carrier"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desk"
	"upperlantern/internal/store"
)

// start runs the whole program on a data folder, with stand-ins that report at once.
func start(ctx context.Context, data string) (*app.Instance, error) {
	return app.Start(ctx, app.Config{
		Data: data, Address: "127.0.0.1:0", Carriers: app.Carriers{StandIns: true}, Log: slog.New(slog.DiscardHandler),
		Delay: func() time.Duration { return 0 },
	})
}

const keystrokes = 100

// typing measures planning again for every few letters, as the page asks for it.
func (b *bench) typing(ctx context.Context, data string) error {
	i, err := start(ctx, data)
	if err != nil {
		return err
	}
	defer i.Close() //nolint:errcheck // only read
	account, err := i.Store.AccountByLogin(ctx, "bench@quillmere.example")
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
		w, err := i.Desk.Plan(ctx, draft, account)
		if err != nil {
			return err
		}
		took[n], people = time.Since(began), w.Summary.Recipients
	}
	slices.Sort(took)
	b.say("\nplanning while typing: %d recipients", people)
	b.say("  half within %s, 95 of 100 within %s (bar 60 ms)", took[keystrokes/2].Round(10*time.Microsecond), took[keystrokes*95/100].Round(10*time.Microsecond))
	return nil
}

// dispatching measures texts to everybody, handed over and reported on, beside
// a bare loop that posts the same and writes one row each.
func (b *bench) dispatching(ctx context.Context, data string) error {
	i, err := start(ctx, data)
	if err != nil {
		return err
	}
	defer i.Close() //nolint:errcheck // the folder goes away
	account, err := i.Store.AccountByLogin(ctx, "bench@quillmere.example")
	if err != nil {
		return err
	}
	w, err := i.Desk.Plan(ctx, textsOnly(), account)
	if err != nil {
		return err
	}
	texts := make([]string, len(w.Plan.Deliveries))
	for n, d := range w.Plan.Deliveries {
		texts[n] = d.Body
	}
	b.say("\ndispatching: %d texts by HTTP over loopback", len(texts))
	took, reported, err := b.sendAll(ctx, i, account, textsOnly(), w.Summary.Recipients)
	if err != nil {
		return err
	}
	bare, err := b.bareLoop(ctx, texts)
	if err != nil {
		return err
	}
	rate := func(d time.Duration) float64 { return float64(len(texts)) / d.Seconds() }
	b.say("  kept, handed over                %8s  %.0f a second", took.Round(time.Millisecond), rate(took))
	b.say("  and every report taken           %8s  %.0f a second", reported.Round(time.Millisecond), rate(reported))
	b.say("  a bare loop: post and one row    %8s  %.0f a second; ours is %.0f %% of its rate (bar 50 %%)", bare.Round(time.Millisecond), rate(bare), 100*rate(took)/rate(bare))
	return nil
}

func (b *bench) sendAll(ctx context.Context, i *app.Instance, by store.Account, d message.Draft, people int) (left, reported time.Duration, err error) {
	m, err := i.Store.AddDraft(ctx, by.ID, d, time.Now())
	if err != nil {
		return 0, 0, err
	}
	if _, err := i.Desk.Send(ctx, m.ID, m.Revision, desk.Checked{Typed: people}, by); err != nil {
		return 0, 0, err
	}
	began := time.Now()
	for {
		figures, err := i.Store.Figures(ctx, m.ID)
		if err != nil {
			return 0, 0, err
		}
		if left == 0 && figures.Here == 0 {
			left = time.Since(began)
		}
		if left > 0 && figures.Waiting == 0 {
			return left, time.Since(began), nil
		}
		time.Sleep(time.Second) // each look reads every state
	}
}

const (
	bareWorkers = 16
	bareBatch   = 200
)

// bareLoop posts the same requests to a handler that only answers, and writes
// a row for each, as many to a transaction as the program does.
func (b *bench) bareLoop(ctx context.Context, texts []string) (time.Duration, error) {
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		_, _ = io.Copy(io.Discard, r.Body)
		w.WriteHeader(http.StatusAccepted)
	}))
	defer server.Close()
	db, err := sql.Open("sqlite", "file:"+filepath.Join(b.folder, "bare.db")+"?_pragma=journal_mode(WAL)&_pragma=synchronous(NORMAL)")
	if err != nil {
		return 0, err
	}
	defer db.Close() //nolint:errcheck // the folder goes away
	db.SetMaxOpenConns(1)
	if _, err := db.ExecContext(ctx, `CREATE TABLE bare (id INTEGER PRIMARY KEY, body TEXT, state TEXT)`); err != nil {
		return 0, err
	}
	transport := http.DefaultTransport.(*http.Transport).Clone()
	transport.MaxIdleConnsPerHost = bareWorkers
	client := &http.Client{Transport: transport}
	began := time.Now()
	for batch := range slices.Chunk(texts, bareBatch) {
		if err := postAll(ctx, client, server.URL, batch); err != nil {
			return 0, err
		}
		if err := writeAll(ctx, db, batch); err != nil {
			return 0, err
		}
	}
	return time.Since(began), nil
}

func postAll(ctx context.Context, client *http.Client, url string, texts []string) error {
	work, failed := make(chan string), make(chan error, len(texts))
	var all sync.WaitGroup
	for range bareWorkers {
		all.Go(func() {
			for text := range work {
				failed <- post(ctx, client, url, text)
			}
		})
	}
	for _, text := range texts {
		work <- text
	}
	close(work)
	all.Wait()
	close(failed)
	for err := range failed {
		if err != nil {
			return err
		}
	}
	return nil
}

func post(ctx context.Context, client *http.Client, url, text string) error {
	body, err := json.Marshal(carrier.GatewayRequest{To: "+447700900123", From: "+447700900100", Text: text})
	if err != nil {
		return err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, url, bytes.NewReader(body))
	if err != nil {
		return err
	}
	resp, err := client.Do(req)
	if err != nil {
		return err
	}
	_, _ = io.Copy(io.Discard, resp.Body)
	return resp.Body.Close()
}

func writeAll(ctx context.Context, db *sql.DB, texts []string) error {
	tx, err := db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // it was committed
	for _, text := range texts {
		if _, err := tx.ExecContext(ctx, `INSERT INTO bare (body, state) VALUES (?, 'carrier')`, text); err != nil {
			return err
		}
	}
	return tx.Commit()
}
