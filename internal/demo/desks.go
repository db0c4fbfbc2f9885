package demo

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desks"
	"upperlantern/internal/messages"
	"upperlantern/internal/sending"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
)

// Places among Accounts.
const coach, clubOffice, floodDesk = 0, 1, 2

// makeDesks makes the two desks of Quillmere. The club office sits at both.
func makeDesks(ctx context.Context, s *store.Store, units map[string]roster.UnitID) error {
	accounts, err := s.Accounts(ctx)
	if err != nil {
		return err
	}
	open := desk.Desk{Name: "Club office", Outside: outside}
	for day := range 7 {
		open.Hours = append(open.Hours, desk.Hours{Day: day, From: 7 * 60, To: 22 * 60})
	}
	open.Members = []int64{accounts[coach].ID, accounts[clubOffice].ID}
	flood := desk.Desk{Name: "Flood watch", Units: []roster.UnitID{units["Flood watch"]}}
	flood.Members = []int64{accounts[floodDesk].ID, accounts[clubOffice].ID}
	for _, d := range []desk.Desk{open, flood} {
		if _, err := s.PutDesk(ctx, d); err != nil {
			return err
		}
	}
	return nil
}

// turn is one thing that was said: some minutes after 18:30 on the evening before, or
// some minutes before the demo begins.
type turn struct {
	late int
	ago  int
	does string // in, automatic, out, note, settle, leave, hand
	text string
	copy string // of an answer, as they got it
}

// talk is what was said with one person.
type talk struct {
	reads   string // the language of who it is with, BCP 47; "" for a number of nobody
	role    roster.Role
	channel roster.Channel
	nth     int // of those who fit
	by      int // of Accounts, who answers
	turns   []turn
}

var talks = []talk{
	{"pl", roster.Guardian, roster.Text, 0, clubOffice, []turn{
		{42, 0, "in", "Dziękuję. Czy autobus też tam jedzie?", ""},
		{50, 0, "out", "No bus on Saturday, parents drive.", "W sobotę nie ma autobusu, rodzice dowożą."},
		{55, 0, "note", "Ask the coaches whether somebody has a seat free.", ""},
		{0, 185, "in", "Czy ćwiczenie też będzie przeniesione? Córka nie ma pianki.", ""},
	}},
	{"ar", roster.Guardian, roster.Email, 1, clubOffice, []turn{
		{0, 130, "in", "هل يمكن أن يأتي أخوه الصغير أيضاً؟ شكراً لكم.", ""},
	}},
	{"", "", roster.Text, 871, clubOffice, []turn{{0, 64, "in", "Wrong number?", ""}}},
	{"vi", roster.Guardian, roster.Email, 0, clubOffice, []turn{
		{30, 0, "in", "Con tôi bị sốt, cháu không đến được.", ""},
		{75, 0, "out", "Thank you for telling us. Get well soon! When can your child come again?", "Cảm ơn đã cho biết. Chúc cháu mau khỏe! Khi nào cháu có thể trở lại?"},
	}},
	{"en", roster.Guardian, roster.Email, 3, coach, []turn{
		{20, 0, "in", "Thank you, we will be there.", ""},
		{80, 0, "settle", "", ""},
	}},
	{"en", roster.Guardian, roster.Email, 5, coach, []turn{
		{2, 0, "automatic", "I am away until Monday and read no mail.", ""},
	}},
	{"en", roster.Guardian, roster.Email, 8, coach, []turn{
		{0, 240, "in", "Which gate do we use at the upper reach? The map in the mail shows two.", ""},
		{0, 236, "hand", "", ""},
	}},
	{"en", roster.Field, roster.Text, 1, floodDesk, []turn{
		{0, 42, "in", "Gauge at Fen Row reads 2.1 m and rising. Do you want somebody at the sluice?", ""},
	}},
	{"en", roster.Field, roster.Text, 4, floodDesk, []turn{
		{0, 310, "in", "Harbour office asks about the boom. Can you call them?", ""},
		{0, 300, "out", "Will do. Thank you.", ""},
		{0, 290, "leave", "Call the harbour office back about the boom before noon", ""},
	}},
}

const outside = "Nobody is at the desk now. We read your message in the morning."

// outsideIn is what is said outside the hours in the languages of those who write then.
type outsideIn map[string]string

// Say says that and nothing else.
func (o outsideIn) Say(_ context.Context, _, to, text string, _ bool) (translation.Spoken, error) {
	if text != outside || o[to] == "" {
		return translation.Spoken{}, nil
	}
	return translation.Spoken{Language: to, Text: o[to]}, nil
}

// converse lets people answer, and the desks answer them, as it was before the demo
// begins.
func converse(ctx context.Context, folder string, now time.Time) (err error) {
	s, err := store.Open(folder)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	h := historian{Store: s, random: rand.New(rand.NewPCG(5, 3))} //nolint:gosec // made-up data, the same each time
	h.sender = &sending.Service{
		Store: s, Messages: &messages.Service{Store: s, Now: h.clock}, Now: h.clock, Held: func(int64) {},
	}
	service := &desks.Service{
		Store: s, Sender: h.sender, Now: h.clock, Changed: func(desk.ID) {}, Log: slog.New(slog.DiscardHandler),
		Reader: outsideIn{
			"pl": "Teraz nikogo nie ma przy biurku. Przeczytamy Państwa wiadomość rano.",
			"ar": "لا أحد في المكتب الآن. سنقرأ رسالتك في الصباح.",
			"vi": "Hiện không có ai trực. Chúng tôi sẽ đọc tin của quý vị vào buổi sáng.",
		},
		Answered: func(int64) {},
		Report: func(ctx context.Context, r delivery.Report) error {
			_, err := s.TakeReport(ctx, r, h.now)
			return err
		},
	}
	if h.accounts, err = s.Accounts(ctx); err != nil {
		return err
	}
	if h.run, err = s.BeginRun(ctx, now); err != nil {
		return err
	}
	r, err := s.Roster(ctx)
	if err != nil {
		return err
	}
	if err := h.answersRollCall(ctx, service, now); err != nil {
		return fmt.Errorf("the roll call: %w", err)
	}
	for n, t := range talks {
		from := t.address(r)
		if from == "" {
			continue // a roster of another size
		}
		for i, one := range t.turns {
			h.now = lastEvening(now).Add(time.Duration(one.late) * time.Minute)
			if one.late == 0 {
				h.now = now.Add(-time.Duration(one.ago) * time.Minute)
			}
			if err := h.says(ctx, service, t, one, from, fmt.Sprintf("talk %d %d", n, i)); err != nil {
				return fmt.Errorf("talk %d with %s: %w", n, from, err)
			}
		}
	}
	if err := h.worksOnJobs(ctx, service, now); err != nil {
		return fmt.Errorf("the jobs: %w", err)
	}
	return nil
}

// address is from where somebody of a talk writes; "" when nobody fits.
func (t talk) address(r *roster.Roster) string {
	if t.reads == "" {
		return fmt.Sprintf("+447700900%d", t.nth)
	}
	nth := t.nth
	for i := range r.Len() {
		p := r.At(i)
		if p.Language != t.reads || !slices.Contains(p.Roles, t.role) || p.Status != roster.Active {
			continue
		}
		at := slices.IndexFunc(p.Addresses, func(a roster.Address) bool {
			return a.Channel == t.channel && a.Usable() && len(r.Holders(a.Value)) == 1 && !strings.HasSuffix(a.Value, "quillmere.example")
		})
		if at < 0 {
			continue
		}
		if nth == 0 {
			return p.Addresses[at].Value
		}
		nth--
	}
	return ""
}

// says does one thing of a talk.
func (h *historian) says(
	ctx context.Context, s *desks.Service, t talk, one turn, from, key string,
) error {
	if one.does == "in" || one.does == "automatic" {
		err := s.Take(ctx, incoming.Item{
			Via: delivery.ViaOf(t.channel), Key: key, Channel: t.channel, From: from, Text: one.text, Automatic: one.does == "automatic",
			At: h.now, Subject: map[bool]string{true: "Re: Saturday outing"}[t.channel == roster.Email],
		})
		if err != nil {
			return err
		}
		return h.leaves(ctx, t.channel) // what is answered outside the hours
	}
	by := h.accounts[t.by].Principal(access.Inside)
	mine, err := s.Mine(ctx, by)
	if err != nil {
		return err
	}
	list, _, err := s.Threads(ctx, desks.Wanted{Desk: mine[0].ID, Find: from, Count: 1}, by)
	if err != nil {
		return err
	}
	if len(list) == 0 {
		return errors.New("there is no thread")
	}
	id := list[0].ID
	switch one.does {
	case "note":
		return s.Note(ctx, id, one.text, by)
	case "settle":
		return s.Settle(ctx, id, by)
	case "leave":
		return s.LeaveForNextShift(ctx, id, one.text, by)
	case "hand":
		return s.Hand(ctx, id, by.ID, by)
	}
	if _, err := s.Answer(ctx, id, desks.Said{Text: one.text, Copy: one.copy}, by); err != nil {
		return err
	}
	return h.leaves(ctx, t.channel)
}

// leaves hands over what a desk answers, once its hold is over.
func (h *historian) leaves(ctx context.Context, channel roster.Channel) error {
	h.now = h.now.Add(sending.AnswerHold)
	if _, err := h.Release(ctx, h.now); err != nil {
		return err
	}
	return h.handOver(ctx, channel)
}
