package measure

import (
	"context"
	"fmt"
	"net/http"
	"net/http/cookiejar"
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
	largeMessages = 5
	looks         = 40
)

// lists measures what the interface asks for while many messages are on record.
func (b *bench) lists(ctx context.Context, data string) error {
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
	r, err := i.Store.Roster(ctx)
	if err != nil {
		return err
	}
	var large int64
	people := 0
	for n := range b.Messages {
		to := audience.Part{Kind: audience.ByPerson, Person: r.At(n % r.Len()).ID}
		if n < largeMessages {
			to = everybody().Audience.Parts[0]
		}
		id, recipients, err := b.addMessage(ctx, i, account, to, n)
		if err != nil {
			return err
		}
		if n == 0 {
			large, people = id, recipients
		}
	}
	c, err := signIn(ctx, i.URL)
	if err != nil {
		return err
	}
	b.say("\nlists: %d messages, %d of them to %d people", b.Messages, largeMessages, people)
	for _, look := range []struct{ what, path, bar string }{
		{"a page of the list", "/api/messages?count=100", "10 ms"},
		{"the whole list", "/api/messages?count=500", "10 ms"},
		{"the strip", "/api/strip", "5 ms"},
		{"a record, without its people", fmt.Sprintf("/api/messages/%d/record", large), "30 ms"},
		{"its first page of people", fmt.Sprintf("/api/messages/%d/recipients", large), "30 ms"},
		{"those who were not reached", fmt.Sprintf("/api/messages/%d/recipients?outcome=not-reached", large), "30 ms"},
		{"people by a few letters", fmt.Sprintf("/api/messages/%d/recipients?words=ana", large), ""},
		{"everybody, one mark each", fmt.Sprintf("/api/messages/%d/marks", large), ""},
	} {
		took, err := median(looks, func() error { return get(ctx, c, i.URL+look.path) })
		if err != nil {
			return err
		}
		bar := ""
		if look.bar != "" {
			bar = "(bar " + look.bar + ")"
		}
		b.say("  %-32s %8s  %s", look.what, took, bar)
	}
	return nil
}

// addMessage sends a text and waits until it has left. It returns how many people
// got it.
func (b *bench) addMessage(
	ctx context.Context, i *app.Instance, by access.Principal, to audience.Part, n int,
) (id int64, people int, err error) {
	d := message.Draft{
		Content: message.Content{
			Subject: fmt.Sprintf("Message %d", n), Email: rich.Lines("Dear {{first name}}, see you at the lock."),
		},
		Routing: message.Routing{
			Urgency: roster.Timely, Steps: precedence.Steps{{roster.Text}}, FirstOnly: true,
			Audience: audience.Audience{Receivers: audience.Both, Parts: []audience.Part{to}},
		},
	}
	m, err := i.Store.AddDraft(ctx, by.ID, d, time.Now())
	if err != nil {
		return 0, 0, err
	}
	w, err := i.Sending.Plan(ctx, 0, d, by)
	if err != nil || w.Summary.Recipients == 0 { // nobody has a number: it stays a draft
		return m.ID, 0, err
	}
	if _, err := i.Sending.Send(ctx, m.ID, m.Revision, sending.Checked{Typed: w.Summary.Recipients}, by); err != nil {
		return 0, 0, err
	}
	return m.ID, w.Summary.Recipients, left(ctx, i, m.ID, func(f record.Figures) bool { return f.Here == 0 })
}

// signIn is a client that has signed in.
func signIn(ctx context.Context, url string) (*http.Client, error) {
	c := client()
	var err error
	if c.Jar, err = cookiejar.New(nil); err != nil {
		return nil, err
	}
	body := fmt.Sprintf(`{"login":%q,"password":%q}`, benchLogin, benchPassword)
	return c, post(ctx, c, url+"/api/sign-in", []byte(body), func(http.Header) {})
}
