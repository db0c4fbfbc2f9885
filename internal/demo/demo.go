// Package demo makes the data of Quillmere Rowing Club and Flood Watch, a
// made-up club, through the same paths that users take.
package demo

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"time"

	files "upperlantern/demo"
	"upperlantern/internal/app"
	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/timing"
	"upperlantern/internal/importer"
	"upperlantern/internal/password"
	"upperlantern/internal/sending"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
)

// Password is that of every demo account.
const Password = "lantern-by-the-river"

// Accounts are who signs in to the demo, with the units that they reach.
var Accounts = []Account{
	{"naya.osei@quillmere.example", "Naya Osei", "Head coach", "Rowing", []access.Right{access.SeePeople, access.EditPeople, access.Write, access.ReadRecords}},
	{"office@quillmere.example", "Hugo Farrowby", "Club office", "", access.Rights},
	{"flood@quillmere.example", "Tamsin Rushmere", "Flood watch desk", "Flood watch", []access.Right{
		access.SeePeople, access.EditPeople, access.Write, access.WriteEmergencies, access.ReadRecords, access.RunReports,
	}},
}

// Account is one of the demo's accounts.
type Account struct {
	Login, Name, Duty string
	Unit              string // "" for the whole organisation
	Rights            []access.Right
}

// AccountsInWords lists the accounts for the terminal.
func AccountsInWords() string {
	lines := []string{"Sign in as one of these, with the password " + Password}
	for _, a := range Accounts {
		lines = append(lines, fmt.Sprintf("  %-30s %s, %s", a.Login, a.Name, strings.ToLower(a.Duty)))
	}
	return strings.Join(lines, "\n")
}

// Organisation is how the demo is set.
func Organisation() store.Organisation {
	return store.Organisation{
		Name: "Quillmere Rowing Club & Flood Watch", Language: "en", TimeZone: "Europe/London", Region: "GB", Currency: "GBP",
		Hold: 30 * time.Second,
		Rates: plan.Rates{
			TextPart:    []plan.Rate{{Prefix: "", Price: 90 * money.Minor / 10}, {Prefix: "+44", Price: 38 * money.Minor / 10}},
			VoiceMinute: []plan.Rate{{Prefix: "", Price: 22 * money.Minor}, {Prefix: "+44", Price: 65 * money.Minor / 10}},
		},
		MailName: "Quillmere Rowing Club", MailFrom: "office@quillmere.example", ReturnDomain: "returns.quillmere.example",
		NumberFrom: "+447700900100", Demo: true,
		Roles:       []roster.Role{"safeguarding"},
		Languages:   []string{"en", "pl", "ar", "vi", "uk", "pt-PT", "pt-BR", "es", "zh-Hans", "so"},
		UpdatesWait: true,
	}
}

// Create makes the demo data in a folder that holds no organisation: the roster
// from the shipped files, one message that has gone out, one that is scheduled
// and one draft. Links lead to the site; "" is where it is made. It is made aside and moved into place at the end, the database
// last, so that what was interrupted is begun again.
func Create(ctx context.Context, folder, site string, now time.Time, log *slog.Logger) error {
	aside := filepath.Join(folder, "making")
	if err := os.RemoveAll(aside); err != nil {
		return fmt.Errorf("the data folder %s cannot be used: %w", folder, err)
	}
	err := create(ctx, aside, site, now, log)
	if err == nil {
		err = store.MoveInto(folder, aside)
	}
	return errors.Join(err, os.RemoveAll(aside))
}

func create(ctx context.Context, folder, site string, now time.Time, log *slog.Logger) error {
	s, err := store.Open(folder)
	if err != nil {
		return err
	}
	if err := fill(ctx, s, now); err != nil {
		return errors.Join(fmt.Errorf("making the demo data: %w", err), s.Close())
	}
	if err := s.Close(); err != nil {
		return err
	}
	if err := sendMessages(ctx, folder, site, now, log); err != nil {
		return fmt.Errorf("making the demo's messages: %w", err)
	}
	if err := history(ctx, folder, now); err != nil {
		return fmt.Errorf("making the messages of the year before: %w", err)
	}
	if err := converse(ctx, folder, now); err != nil {
		return fmt.Errorf("making what was said at the desks: %w", err)
	}
	return nil
}

func fill(ctx context.Context, s *store.Store, now time.Time) error {
	if err := s.PutOrganisation(ctx, Organisation()); err != nil {
		return err
	}
	hash, err := password.Hash(Password, password.Usual)
	if err != nil {
		return err
	}
	units, err := parts(ctx, s)
	if err != nil {
		return err
	}
	for _, a := range Accounts {
		account := store.Account{Login: a.Login, Name: a.Name, Duty: a.Duty, PasswordHash: hash, Active: true}
		account.Rights, account.Scope.Whole = a.Rights, a.Unit == ""
		if a.Unit != "" {
			account.Scope.Units = []roster.UnitID{units[a.Unit]}
		}
		if _, err := s.PutAccount(ctx, account); err != nil {
			return err
		}
	}
	if err := Load(ctx, s, files.Names, files.Files, now); err != nil {
		return err
	}
	if err := makeDesks(ctx, s, units); err != nil {
		return err
	}
	return arrange(ctx, s, units, now)
}

// Load brings roster files onto the roster in order.
func Load(ctx context.Context, s *store.Store, names []string, from fs.FS, now time.Time) error {
	im := &importer.Importer{Store: s, Now: func() time.Time { return now }, Changed: func(int64) {}}
	for _, name := range names {
		content, err := fs.ReadFile(from, name)
		if err != nil {
			return err
		}
		id, err := im.Add(ctx, access.Program, name, content)
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		if _, err := im.Load(ctx, access.Program, id); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
	}
	return nil
}

// lastEvening is 18:30 of the day before in Quillmere.
func lastEvening(now time.Time) time.Time {
	local := now.In(quillmere())
	return time.Date(local.Year(), local.Month(), local.Day()-1, 18, 30, 0, 0, local.Location())
}

func quillmere() *time.Location {
	zone, err := time.LoadLocation(Organisation().TimeZone)
	if err != nil {
		return time.UTC // a machine without time zones
	}
	return zone
}

// sendMessages runs the program itself, with its clock set back, until the first
// message has gone out and was reported on.
func sendMessages(ctx context.Context, folder, site string, now time.Time, log *slog.Logger) error {
	began := time.Now()
	past := func() time.Time { return lastEvening(now).Add(time.Since(began)) }
	instance, err := app.Start(ctx, app.Config{
		Data: folder, Address: "127.0.0.1:0", Site: site, Carriers: app.Carriers{StandIns: true}, Log: log, Now: past,
		Delay: func() time.Duration { return rand.N(2500 * time.Millisecond) },
	})
	if err != nil {
		return err
	}
	err = threeMessages(ctx, instance, now)
	return errors.Join(err, instance.Close())
}

func threeMessages(ctx context.Context, i *app.Instance, now time.Time) error {
	accounts, err := i.Store.Accounts(ctx)
	if err != nil {
		return err
	}
	if err := breakSome(ctx, i); err != nil {
		return err
	}
	groups, err := groupsByName(ctx, i.Store)
	if err != nil {
		return err
	}
	if err := sendFinished(ctx, i, accounts[0].Principal(access.Inside), outing(groups)); err != nil {
		return err
	}
	rota := floodRota(groups, nextEvening(now))
	m, err := i.Store.AddDraft(ctx, accounts[2].ID, rota, now)
	if err != nil {
		return err
	}
	if err := send(ctx, i, m, accounts[2].Principal(access.Inside)); err != nil {
		return err
	}
	if err := habits(ctx, i.Store); err != nil {
		return err
	}
	if err := translateDrill(ctx, i, accounts[1].Principal(access.Inside), capsize(groups)); err != nil {
		return err
	}
	return shelf(ctx, i.Store, accounts[0].ID, now)
}

// shelf puts templates and quick texts where everybody finds them.
func shelf(ctx context.Context, s *store.Store, owner int64, now time.Time) error {
	moved := message.Content{
		Subject: "{{ask: day}} outing moved to {{ask: place}}",
		Email: rich.Lines("Dear {{first name}},\n\nthe {{ask: day}} outing does not start at the boathouse. " +
			"We meet at {{ask: place}} at {{ask: time}}. " +
			"{{dependents, else Your crew}} should bring a warm layer and a drink.\n\n{{sender}}"),
		OwnText: true, Text: "{{ask: day}} outing: meet at {{ask: place}}, {{ask: time}}. Warm layer + drink. {{sender}}",
	}
	form := message.Content{
		Subject: "Membership form",
		Email: rich.Lines("Dear {{first name}},\n\nthe membership form of {{dependents, else your own}} is still outstanding. " +
			"Please hand it in at the office by {{ask: day}}.\n\n{{sender}}"),
	}
	parking := message.Content{Email: rich.Lines("Parking is on the east side only.")}
	bring := message.Content{Email: rich.Lines("Please bring a warm layer, a drink and a change of clothes.")}
	for _, item := range []store.ShelfItem{
		{Kind: store.Template, Name: "Outing moved", Content: moved},
		{Kind: store.Template, Name: "Form outstanding", Content: form},
		{Kind: store.QuickText, Name: "Parking", Content: parking},
		{Kind: store.QuickText, Name: "What to bring", Content: bring},
	} {
		if _, err := s.PutOnShelf(ctx, item, owner, now); err != nil {
			return err
		}
	}
	return nil
}

// send confirms and sends a draft, as its sender would.
func send(ctx context.Context, i *app.Instance, m store.Message, by access.Principal) error {
	w, err := i.Sending.Plan(ctx, m.ID, m.Draft, by)
	if err != nil {
		return err
	}
	_, err = i.Sending.Send(ctx, m.ID, m.Revision, sending.Checked{Typed: w.Summary.Recipients}, by)
	return err
}

// habits are how Quillmere sends.
func habits(ctx context.Context, s *store.Store) error {
	o, err := s.Organisation(ctx)
	if err != nil {
		return err
	}
	r, err := s.Roster(ctx)
	if err != nil {
		return err
	}
	night := timing.Quiet{From: 21 * 60, To: 7 * 60}
	o.Sending = plan.Sending{
		LoadLimit: 4, Quiet: map[roster.Channel]timing.Quiet{roster.Text: night, roster.Voice: night},
		Budgets:   []plan.Budget{{Month: 60_00}},
		Voiceless: []string{"so"},
		Signature: roster.Signature{Footer: "Quillmere Rowing Club & Flood Watch\nThe Boathouse, Sluice Lane, Quillmere"},
	}
	for _, a := range r.Attributes {
		if a.Name == "Postal address" {
			o.Sending.Postal = a.ID
		}
		if a.Name == readsCopies {
			o.Sending.Reads = a.ID
		}
	}
	if juniors, ok := r.UnitNamed("Rowing › Juniors"); ok {
		o.Sending.Budgets = append(o.Sending.Budgets, plan.Budget{Unit: juniors, Month: 25_00})
	}
	staff, _ := r.Select(
		roster.Rule{
			{On: roster.OnRole, Test: roster.Is, Value: string(roster.Staff)},
			{On: roster.OnChannel, Test: roster.Is, Value: string(roster.Text)},
		},
	)
	for _, at := range staff[:min(len(staff), 3)] {
		o.Sending.Testers = append(o.Sending.Testers, r.At(at).ID)
	}
	return s.PutOrganisation(ctx, o)
}

// sendFinished sends a message with its copies and waits for its last report.
func sendFinished(ctx context.Context, i *app.Instance, by access.Principal, d message.Draft) error {
	m, err := i.Store.AddDraft(ctx, by.ID, d, i.Sending.Now())
	if err != nil {
		return err
	}
	if err := outingCopies(translator{ctx, i.Translation, by, m.ID}); err != nil {
		return err
	}
	return withoutHold(ctx, i, func() ([]int64, error) { return []int64{m.ID}, send(ctx, i, m, by) })
}

// withoutHold sends messages without a hold and waits for their last reports.
func withoutHold(ctx context.Context, i *app.Instance, send func() (sent []int64, err error)) error {
	o, err := i.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	usual := o
	o.Hold = 0
	if err := i.Store.PutOrganisation(ctx, o); err != nil {
		return err
	}
	sent, err := send()
	for _, id := range sent {
		err = errors.Join(err, finished(ctx, i, id))
	}
	return errors.Join(err, i.Store.PutOrganisation(ctx, usual))
}

// finished waits for the last report of a message: of whoever waits for one, and
// those that come when somebody was reached already.
func finished(ctx context.Context, i *app.Instance, id int64) error {
	ctx, cancel := context.WithTimeout(ctx, time.Minute)
	defer cancel()
	for {
		f, err := i.Store.Figures(ctx, id)
		if err != nil {
			return err
		}
		owed, err := i.Box.Unreported(ctx)
		if err != nil || f.Waiting+owed == 0 {
			return err
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("%d recipients wait, %d reports are owed: %w", f.Waiting, owed, ctx.Err())
		case <-time.After(20 * time.Millisecond):
		}
	}
}

func groupsByName(ctx context.Context, s *store.Store) (map[string]roster.GroupID, error) {
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, err
	}
	byName := map[string]roster.GroupID{}
	for _, g := range r.Groups() {
		byName[g.Name] = g.ID
	}
	return byName, nil
}

// faults says which of the guardians' addresses behave badly, every so many.
var faults = []struct {
	channel roster.Channel
	every   int
	fault   standin.Fault
}{
	{roster.Email, 31, standin.Gone}, {roster.Email, 47, standin.Full},
	{roster.Text, 37, standin.Gone}, {roster.Voice, 3, standin.NoAnswer},
}

// breakSome makes some addresses of guardians behave as some always do.
func breakSome(ctx context.Context, i *app.Instance) error {
	r, err := i.Store.Roster(ctx)
	if err != nil {
		return err
	}
	for _, f := range faults {
		seen := 0
		for n := range r.Len() {
			p := r.At(n)
			only := len(p.Addresses) == 1
			for _, a := range p.Addresses {
				if a.Channel != f.channel || !p.Has(roster.Guardian) || f.channel == roster.Voice && !only {
					continue
				}
				if seen++; seen%f.every == 0 {
					if err := i.Box.SetFault(ctx, a.Value, f.fault); err != nil {
						return err
					}
				}
			}
		}
	}
	return nil
}

func group(id roster.GroupID) audience.Part { return audience.Part{Kind: audience.ByGroup, Group: id} }

func outing(groups map[string]roster.GroupID) message.Draft {
	return message.Draft{
		Content: message.Content{Subject: "Saturday outing moved to the upper reach", Email: rich.Lines("Dear {{first name}},\n\nThe water at the boathouse is too high for Saturday. We will meet at Harrow Lock instead, at 08:30. " +
			"{{dependents, else Your crew}} should bring a warm layer and a drink. Parking is on the east side only.\n\nNaya Osei, head coach"), OwnText: true, Text: "Sat outing moved: meet Harrow Lock 08:30, not the boathouse. Warm layer + drink for {{dependents, else your crew}}. Park east side - Naya Osei"},
		Routing: message.Routing{Urgency: roster.Routine, Audience: audience.Audience{
			Receivers: audience.Guardians, Parts: []audience.Part{group(groups["Junior squads"]), group(groups["Coaches"])},
		}},
	}
}

func floodRota(groups map[string]roster.GroupID, at time.Time) message.Draft {
	return message.Draft{
		Content: message.Content{Subject: "Flood rota for the coming week", Email: rich.Lines("Hello {{first name}},\n\nthe rota for the coming week is on the board at the sluice house. " +
			"If you cannot take your watch, swap with a neighbour and tell the desk.\n\nTamsin Rushmere, flood watch desk"), OwnText: true, Text: "Flood rota for the coming week is on the board at the sluice house. Cannot take your watch? Swap with a neighbour and tell the desk."},
		Routing: message.Routing{
			Urgency:  roster.Timely,
			Audience: audience.Audience{Receivers: audience.Guardians, Parts: []audience.Part{group(groups["Flood watch"])}},
			SendAt:   &at,
		},
	}
}

func capsize(groups map[string]roster.GroupID) message.Draft {
	return message.Draft{
		Content: message.Content{Subject: "Capsize drill on Thursday", Email: drill()},
		Routing: message.Routing{Urgency: roster.Routine, Audience: audience.Audience{
			Receivers: audience.Both,
			Parts: []audience.Part{
				group(groups["U14"]), group(groups["U16"]), {Kind: audience.ByRole, Role: roster.Staff, LeaveOut: true},
			},
		}},
	}
}

// drill is a formatted email, with the typographic marks that word processors make.
func drill() rich.Doc {
	text := func(s string, marks ...rich.Mark) rich.Node { return rich.Node{Type: rich.Text, Text: s, Marks: marks} }
	line := func(in ...rich.Node) rich.Node { return rich.Node{Type: rich.Paragraph, Content: in} }
	item := func(s string) rich.Node { return rich.Node{Type: rich.ListItem, Content: []rich.Node{line(text(s))}} }
	bold := rich.Mark{Type: rich.Bold}
	return rich.Doc{Content: []rich.Node{
		line(text("Dear {{first name}},")), line(),
		line(text("Thursday’s session is the "), text("capsize drill", bold), text(
			" at the pool – doors open at 17:45. {{dependents, else Everybody}} should bring:",
		)),
		{Type: rich.BulletList, Content: []rich.Node{item("a towel and a full change of clothes"), item("a bag for wet kit"), item("£2 for the locker…")}},
	}}
}

// nextEvening is the next 18:00 in Quillmere that is at least three hours away.
func nextEvening(now time.Time) time.Time {
	local := now.In(quillmere())
	evening := time.Date(local.Year(), local.Month(), local.Day(), 18, 0, 0, 0, local.Location())
	for evening.Sub(now) < 3*time.Hour {
		evening = evening.AddDate(0, 0, 1)
	}
	return evening
}
