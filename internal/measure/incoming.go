package measure

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/roster"
)

const (
	incomingRate = 500 // texts a second
	lookEvery    = 100 * time.Millisecond
)

// incoming measures texts that come in, each from another number, while a message to
// everybody goes out and somebody looks at the desk.
func (b *bench) incoming(ctx context.Context, data string) error {
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
	if err := i.Desks.Put(ctx, desk.Desk{Name: "Bench", Members: []int64{account.ID}}, account); err != nil {
		return err
	}
	texts, err := textsFrom(ctx, i.Store, b.Incoming)
	if err != nil {
		return err
	}
	list, stopped := looksAt(ctx, i.URL+threadList)
	id, deliveries, err := b.sendText(ctx, i, account, roster.Routine, "bring oars")
	if err != nil {
		return err
	}
	posts, all, err := posted(ctx, i.URL+"/carrier/incoming", texts)
	if err != nil {
		return err
	}
	list()
	looked := <-stopped
	if looked.err != nil {
		return looked.err
	}
	kept, err := b.keptAt(ctx, i.URL)
	if err != nil {
		return err
	}
	b.say("\nIncoming, %d texts at %d a second, while %d texts go out", len(texts), incomingRate, deliveries)
	b.say("  all taken in %s, %d lost; a post: half within %s, 95 of 100 within %s", all.Round(10*time.Millisecond),
		len(texts)-kept, posts.at(50), posts.at(95))
	b.say("  the list of threads: half within %s, 95 of 100 within %s (bar 200 ms)", looked.took.at(50), looked.took.at(95))
	if err := left(ctx, i, id, func(f record.Figures) bool { return f.Here == 0 }); err != nil {
		return err
	}
	if err := b.bareIncoming(ctx, texts); err != nil {
		return err
	}
	return b.answers(ctx, i, account)
}

// bareIncoming posts the same texts to a handler that reads and checks them, and keeps none.
func (b *bench) bareIncoming(ctx context.Context, texts []carrier.GatewayItem) error {
	nothing := func(context.Context, incoming.Item) error { return nil }
	bare := httptest.NewServer(carrier.Incoming(func() []string { return []string{reportSecret} }, nothing, time.Now))
	defer bare.Close()
	posts, _, err := posted(ctx, bare.URL, texts)
	if err == nil {
		b.say("  a bare loop: read and checked, and not kept: half within %s, 95 of 100 within %s", posts.at(50), posts.at(95))
	}
	return err
}

// textsFrom makes texts, each from another number: those of the roster, then of strangers.
func textsFrom(ctx context.Context, s interface {
	Roster(context.Context) (*roster.Roster, error)
}, count int) ([]carrier.GatewayItem, error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, err
	}
	from := map[string]bool{}
	for i := range r.Len() {
		for _, a := range r.At(i).Addresses {
			if a.Channel == roster.Text && len(from) < count {
				from[a.Value] = true
			}
		}
	}
	for n := 0; len(from) < count; n++ {
		from[fmt.Sprintf("+4479%08d", n)] = true
	}
	texts := make([]carrier.GatewayItem, 0, count)
	for number := range from {
		texts = append(texts, carrier.GatewayItem{
			Key: "bench " + number, Channel: roster.Text, From: number, To: "+447700900100", Text: "We are on our way to the lock", At: time.Now(),
		})
	}
	return texts, nil
}

// durations are how long something took, many times.
type durations []time.Duration

// at is within which time so many of a hundred were.
func (d durations) at(percent int) time.Duration {
	if len(d) == 0 {
		return 0
	}
	sorted := slices.Sorted(slices.Values(d))
	return sorted[min(len(sorted)-1, len(sorted)*percent/100)].Round(100 * time.Microsecond)
}

// posted posts texts at their rate, signed as a gateway does, and returns how long each
// post took and all of them together.
func posted(ctx context.Context, url string, texts []carrier.GatewayItem) (durations, time.Duration, error) {
	c := client()
	type timed struct {
		at   time.Time
		item carrier.GatewayItem
	}
	began := time.Now()
	list := make([]timed, len(texts))
	for n, item := range texts {
		list[n] = timed{began.Add(time.Duration(n) * time.Second / incomingRate), item}
	}
	took := make(chan time.Duration, len(texts))
	err := atOnce(list, func(t timed) error {
		time.Sleep(time.Until(t.at))
		body, err := json.Marshal(t.item)
		if err != nil {
			return err
		}
		req, err := http.NewRequestWithContext(ctx, http.MethodPost, url, bytes.NewReader(body))
		if err != nil {
			return err
		}
		carrier.Sign(req.Header, reportSecret, t.item.Key, time.Now(), body)
		before := time.Now()
		err = do(c, req)
		took <- time.Since(before)
		return err
	})
	all := time.Since(began)
	close(took)
	return slices.Collect(func(yield func(time.Duration) bool) {
		for d := range took {
			if !yield(d) {
				return
			}
		}
	}), all, err
}

// looked is how long a page took, each time somebody looked.
type looked struct {
	took durations
	err  error
}

const threadList = "/api/desks/1/threads?count=50"

// looksAt looks at something again and again, until it is told to stop.
func looksAt(ctx context.Context, page string) (stop func(), done <-chan looked) {
	ctx, stop = context.WithCancel(ctx)
	result := make(chan looked, 1)
	go func() {
		var l looked
		c, err := signIn(ctx, page[:strings.Index(page, "/api/")])
		for err == nil && ctx.Err() == nil {
			before := time.Now()
			if err = get(ctx, c, page); err == nil {
				l.took = append(l.took, time.Since(before))
				time.Sleep(lookEvery)
			}
		}
		if !errors.Is(err, context.Canceled) {
			l.err = err
		}
		result <- l
	}()
	return stop, result
}

// keptAt is how many threads the desk has.
func (b *bench) keptAt(ctx context.Context, url string) (int, error) {
	var list struct{ All int }
	err := readsPage(ctx, url, threadList, &list)
	return list.All, err
}

// readsPage reads what a path of the API answers.
func readsPage(ctx context.Context, url, path string, out any) error {
	c, err := signIn(ctx, url)
	if err != nil {
		return err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, url+path, nil)
	if err != nil {
		return err
	}
	resp, err := c.Do(req)
	if err != nil {
		return err
	}
	defer resp.Body.Close() //nolint:errcheck // all of it is read
	content, err := io.ReadAll(io.LimitReader(resp.Body, 16<<20))
	if err != nil {
		return err
	}
	return json.Unmarshal(content, out)
}
