package dispatch_test

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/dispatch"
	"upperlantern/internal/messages"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// recorder is a carrier that answers as it is told and remembers what it got.
type recorder struct {
	mu     sync.Mutex
	items  []carrier.Item
	answer func(nth int) error
	hangs  func(carrier.Item)
	atOnce int
	most   int
}

func (r *recorder) Hand(_ context.Context, item carrier.Item) error {
	r.mu.Lock()
	r.items = append(r.items, item)
	nth := len(r.items)
	r.atOnce++
	r.most = max(r.most, r.atOnce)
	r.mu.Unlock()
	defer func() {
		r.mu.Lock()
		r.atOnce--
		r.mu.Unlock()
	}()
	if r.hangs != nil {
		r.hangs(item)
	}
	if r.answer == nil {
		return nil
	}
	return r.answer(nth)
}

func (r *recorder) got() []carrier.Item {
	r.mu.Lock()
	defer r.mu.Unlock()
	return append([]carrier.Item(nil), r.items...)
}

type bench struct {
	store   *store.Store
	service *sending.Service
	texts   *recorder
	mails   *recorder
	d       *dispatch.Dispatcher
}

// start runs a dispatcher with recording carriers on the test roster.
func start(t *testing.T, perSecond float64) *bench { return startWith(t, testkit.Roster, perSecond) }

// startWith is start on a roster of one's own.
func startWith(t *testing.T, csv string, perSecond float64) *bench {
	s, err := store.Open(testkit.Folder(t, csv, nil))
	require.NoError(t, err)
	b := &bench{store: s, texts: &recorder{}, mails: &recorder{}}
	b.d = dispatch.New(s, dispatch.Options{
		Lines: dispatch.Lines{roster.Email: {{Carrier: b.mails}}, roster.Text: {{Carrier: b.texts, PerSecond: perSecond}}},
		Now:   time.Now, Changed: func(int64) {}, Troubled: func() {}, Log: slog.New(slog.DiscardHandler),
	})
	b.service = &sending.Service{
		Store:    s,
		Messages: &messages.Service{Store: s},
		Now:      time.Now,
		Held:     func(int64) { b.d.Wake() },
		Recall:   b.d.Recall,
	}
	ctx, cancel := context.WithCancel(context.Background())
	done := make(chan struct{})
	go func() {
		assert.NoError(t, b.d.Run(ctx))
		close(done)
	}()
	t.Cleanup(func() {
		cancel()
		<-done
		require.NoError(t, s.Close())
	})
	return b
}

// send sends the guardians a message by the channels of one step.
func (b *bench) send(t *testing.T, channels ...roster.Channel) int64 {
	ctx := context.Background()
	m, err := b.store.AddDraft(ctx, 1, message.Draft{
		Content: message.Content{Subject: "Outing", Email: rich.Lines("Dear {{first name}}")},
		Routing: message.Routing{
			Urgency: roster.Routine, Steps: precedence.Steps{channels},
			Audience: audience.Audience{Parts: []audience.Part{{Kind: audience.ByRole, Role: roster.Guardian}}},
		},
	}, time.Now())
	require.NoError(t, err)
	_, err = b.service.Send(ctx, m.ID, m.Revision, sending.Checked{}, access.Principal{
		ID: 1, Name: "Hugo", Grant: access.Program.Grant,
	})
	require.NoError(t, err)
	return m.ID
}

func (b *bench) states(t *testing.T, id int64) map[delivery.State]int {
	list, err := b.store.Deliveries(context.Background(), id)
	require.NoError(t, err)
	states := map[delivery.State]int{}
	for _, d := range list {
		states[d.State]++
	}
	return states
}

func TestHandsOverWhatIsDueWithTheOrganisationsIdentity(t *testing.T) {
	b := start(t, 0)
	id := b.send(t, roster.Email, roster.Text)
	testkit.Eventually(t, "everything is with a carrier", func() bool { return b.states(t, id)[delivery.Carrier] == 3 })
	mail := b.mails.got()[0]
	assert.Equal(t, "office@quillmere.example", mail.From)
	assert.Equal(t, "Quillmere Rowing Club", mail.FromName)
	assert.Equal(t, "Outing", mail.Subject)
	text := b.texts.got()[0]
	assert.Equal(t, "+447700900100", text.From)
	assert.NotEmpty(t, text.Key)
	m, err := b.store.Message(context.Background(), id)
	require.NoError(t, err)
	assert.Equal(t, store.Sent, m.State)
}

func TestTellsRefusalsApart(t *testing.T) {
	b := start(t, 0)
	b.texts.answer = func(nth int) error {
		switch nth {
		case 1:
			return &carrier.Refusal{Detail: "no such number", Permanent: true, Gone: true}
		default:
			return errors.New("the text gateway does not answer")
		}
	}
	id := b.send(t, roster.Text)
	testkit.Eventually(t, "one failed and one is tried again", func() bool {
		s := b.states(t, id)
		return s[delivery.Failed] == 1 && s[delivery.Retrying] == 1
	})
	list, err := b.store.Deliveries(context.Background(), id)
	require.NoError(t, err)
	for _, d := range list {
		if d.State == delivery.Retrying {
			assert.Equal(t, "the text gateway does not answer", d.Detail)
			assert.Equal(t, 1, d.Attempts)
		}
	}
}

func TestOneChannelDoesNotWaitForAnother(t *testing.T) {
	b := start(t, 0)
	release := make(chan struct{})
	b.texts.answer = func(int) error {
		<-release
		return nil
	}
	id := b.send(t, roster.Email, roster.Text)
	testkit.Eventually(
		t,
		"the email left although the texts hang",
		func() bool { return b.states(t, id)[delivery.Carrier] == 1 },
	)
	close(release)
	testkit.Eventually(t, "the texts follow", func() bool { return b.states(t, id)[delivery.Carrier] == 3 })
}

func TestACarriersLimitHolds(t *testing.T) {
	b := start(t, 4)
	began := time.Now()
	first, second, third := b.send(t, roster.Text), b.send(t, roster.Text), b.send(t, roster.Text)
	for _, id := range []int64{first, second, third} {
		testkit.Eventually(t, "it left", func() bool { return b.states(t, id)[delivery.Carrier] == 2 })
	}
	// Four at once are allowed, and the other two a quarter of a second apart.
	assert.GreaterOrEqual(t, time.Since(began), 450*time.Millisecond)
}

func TestAnInterruptedHandoverIsMadeAgainUnderItsKey(t *testing.T) {
	s, err := store.Open(testkit.Folder(t, testkit.Roster, nil))
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	hanging := make(chan struct{}, 10)
	run := func(c dispatch.Carrier) (stop func()) {
		d := dispatch.New(s, dispatch.Options{
			Lines: dispatch.Lines{roster.Text: {{Carrier: c}}}, Now: time.Now, Changed: func(int64) {},
			Troubled: func() {}, Log: slog.New(slog.DiscardHandler),
		})
		ctx, cancel := context.WithCancel(context.Background())
		done := make(chan struct{})
		go func() {
			assert.NoError(t, d.Run(ctx))
			close(done)
		}()
		return func() { cancel(); <-done }
	}
	b := &bench{
		store:   s,
		service: &sending.Service{Store: s, Messages: &messages.Service{Store: s}, Now: time.Now, Held: func(int64) {}},
	}
	id := b.send(t, roster.Text)

	first := &hanger{hanging: hanging}
	stop := run(first)
	<-hanging
	<-hanging
	stop()
	assert.Zero(t, b.states(t, id)[delivery.Carrier])

	second := &recorder{}
	defer run(second)()
	testkit.Eventually(t, "both left", func() bool { return b.states(t, id)[delivery.Carrier] == 2 })
	keys := func(items []carrier.Item) map[string]bool {
		set := map[string]bool{}
		for _, i := range items {
			set[i.Key] = true
		}
		return set
	}
	assert.Equal(t, keys(first.got()), keys(second.got()))
}

// hanger takes a delivery and never answers, until the program stops.
type hanger struct {
	recorder
	hanging chan struct{}
}

func (h *hanger) Hand(ctx context.Context, item carrier.Item) error {
	if err := h.recorder.Hand(ctx, item); err != nil {
		return err
	}
	h.hanging <- struct{}{}
	<-ctx.Done()
	return ctx.Err()
}

func TestWhatGoesAlongWithADelivery(t *testing.T) {
	b := start(t, 0)
	ctx := context.Background()
	picture, err := b.store.AddFile(ctx, 1, "lock.png", "image/png", []byte("\x89PNG"), time.Now())
	require.NoError(t, err)
	chart, err := b.store.AddFile(ctx, 1, "map.pdf", "application/pdf", []byte("%PDF-1.7"), time.Now())
	require.NoError(t, err)
	m, err := b.store.AddDraft(ctx, 1, message.Draft{
		Content: message.Content{Subject: "Map", Files: []attachment.File{picture, chart}, Email: rich.Doc{
			Content: []rich.Node{{Type: rich.Image, Attrs: &rich.Attrs{Src: "file:" + picture.Hash, Alt: "the lock"}}},
		}},
		Routing: message.Routing{
			Urgency: roster.Routine,
			ReplyTo: "hugo@quillmere.example",
			Audience: audience.Audience{
				Parts: []audience.Part{{Kind: audience.ByAddresses, Addresses: []string{"rania@example.org"}}},
			},
		},
	}, time.Now())
	require.NoError(t, err)
	_, err = b.service.Send(ctx, m.ID, m.Revision, sending.Checked{}, access.Principal{
		ID: 1, Login: "hugo@quillmere.example", Name: "Hugo", Grant: access.Program.Grant,
	})
	require.NoError(t, err)
	testkit.Eventually(t, "the email is handed over", func() bool { return len(b.mails.got()) == 1 })
	mail := b.mails.got()[0]
	assert.Equal(t, "[the lock]", mail.Body)
	assert.Contains(t, mail.HTML, `src="cid:`+picture.Hash)
	assert.Equal(t, "hugo@quillmere.example", mail.ReplyTo)
	require.Len(t, mail.Files, 2)
	assert.Equal(t, picture.Hash, mail.Files[0].Shown)
	assert.Empty(t, mail.Files[1].Shown)
	content, err := os.ReadFile(mail.Files[1].Path)
	require.NoError(t, err)
	assert.Equal(t, "%PDF-1.7", string(content))
}

// A carrier in trouble pauses: no address is to blame, nothing counts as a try,
// and everything goes on when it is well again, also after a restart.
func TestACarrierInTroublePauses(t *testing.T) {
	b := start(t, 0)
	var well atomic.Bool
	b.texts.answer = func(int) error {
		if well.Load() {
			return nil
		}
		return &carrier.Trouble{Detail: "no credit", RetryAfter: time.Hour}
	}
	id := b.send(t, roster.Email, roster.Text)
	ctx := context.Background()
	testkit.Eventually(t, "it is known to be in trouble", func() bool {
		troubles, err := b.store.Troubles(ctx)
		return err == nil && len(troubles) == 1 && troubles[0].Channel == roster.Text &&
			troubles[0].Detail == "no credit"
	})
	testkit.Eventually(t, "the email leaves all the same", func() bool { return len(b.mails.got()) == 1 })
	tried := len(b.texts.got())
	for range 5 {
		b.d.Wake()
	}
	list, err := b.store.Deliveries(ctx, id)
	require.NoError(t, err)
	for _, d := range list {
		if d.Channel == roster.Text {
			assert.Equal(t, delivery.Queued, d.State)
			assert.Zero(t, d.Attempts)
		}
	}
	assert.LessOrEqual(t, tried, 2, "no more than was under way")

	well.Store(true)
	assert.Len(t, b.texts.got(), tried, "it is left alone for as long as it asks")
	b.d.TryNow(roster.Text)
	testkit.Eventually(t, "all goes on", func() bool { return b.states(t, id)[delivery.Carrier] == 3 })
	testkit.Eventually(t, "and it is known to be well", func() bool {
		troubles, err := b.store.Troubles(ctx)
		return err == nil && len(troubles) == 0
	})
	r, err := b.store.Roster(ctx)
	require.NoError(t, err)
	for i := range r.Len() {
		for _, a := range r.At(i).Addresses {
			assert.NotEqual(t, roster.Dead, a.Health)
			assert.NotEqual(t, roster.Failing, a.Health)
		}
	}
}

// Whoever stops the program while it starts has not broken anything.
func TestAnEndDuringTheStartIsNoFailure(t *testing.T) {
	s, err := store.Open(testkit.Folder(t, testkit.Roster, nil))
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	d := dispatch.New(s, dispatch.Options{
		Now: time.Now, Changed: func(int64) {}, Troubled: func() {}, Log: slog.New(slog.DiscardHandler),
	})
	ended, end := context.WithCancel(t.Context())
	end()
	assert.NoError(t, d.Run(ended))
}

func TestATroubleIsRememberedAcrossARestart(t *testing.T) {
	s, err := store.Open(testkit.Folder(t, testkit.Roster, nil))
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	ctx := context.Background()
	require.NoError(t, s.PutTrouble(ctx, roster.Text, 0, "account closed", time.Now(), time.Now().Add(time.Hour)))
	texts, mails := &recorder{}, &recorder{}
	d := dispatch.New(s, dispatch.Options{
		Lines: dispatch.Lines{roster.Email: {{Carrier: mails}}, roster.Text: {{Carrier: texts}}}, Now: time.Now,
		Changed: func(int64) {}, Troubled: func() {}, Log: slog.New(slog.DiscardHandler),
	})
	b := &bench{
		store: s,
		service: &sending.Service{
			Store:    s,
			Messages: &messages.Service{Store: s},
			Now:      time.Now,
			Held:     func(int64) { d.Wake() },
		},
	}
	running, stop := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() {
		assert.NoError(t, d.Run(running))
		close(done)
	}()
	defer func() { stop(); <-done }()
	b.send(t, roster.Email, roster.Text)
	testkit.Eventually(t, "the email leaves", func() bool { return len(mails.got()) == 1 })
	assert.Empty(t, texts.got())
}

// What was handed over while the disk was full is written down once there is room,
// and is handed over once.
func TestAFullDiskStrandsNothing(t *testing.T) {
	b := start(t, 0)
	_, writer := b.store.Sessions()
	grow := func(pages int) {
		_, err := writer.Exec(fmt.Sprintf("PRAGMA max_page_count = %d", pages))
		assert.NoError(t, err)
	}
	b.texts.answer = func(nth int) error {
		if nth == 1 {
			grow(1) // no more than there are
		}
		return &carrier.Refusal{Detail: strings.Repeat("a long answer ", 20_000), Permanent: true}
	}
	id := b.send(t, roster.Text)
	testkit.Eventually(t, "the disk is found full", b.store.Full)
	grow(1 << 30)
	testkit.Eventually(t, "all is written down", func() bool { return b.states(t, id)[delivery.Failed] == 2 })
	assert.Len(t, b.texts.got(), 2)
}
