// Package measure measures the program on a made-up roster, beside the least
// that such work can take: reading the same rows, posting the same requests.
package measure

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/demo"
	"upperlantern/internal/password"
	"upperlantern/internal/store"
)

// Options say how large the made-up organisation is.
type Options struct {
	People int // for the plan and the sending
	Typing int // for planning while somebody types
	Lists  int // for the lists of what was sent
	// Messages is how many messages the lists hold.
	Messages int
	// Memory is how many lines the memory of copies holds.
	Memory int
	// Incoming is how many texts come in while a message goes out.
	Incoming int
	Out      io.Writer
}

// bench is one run of the measurements.
type bench struct {
	Options
	folder string
}

// Run measures and writes a line for every figure.
func Run(ctx context.Context, o Options) error {
	folder, err := os.MkdirTemp("", "lantern-bench-*")
	if err != nil {
		return err
	}
	b := &bench{o, folder}
	err = b.run(ctx)
	return errors.Join(err, os.RemoveAll(folder))
}

func (b *bench) run(ctx context.Context) error {
	b.say("On %d cores, Go %s.", runtime.NumCPU(), runtime.Version())
	large, err := b.organisation(ctx, "large", b.People)
	if err != nil {
		return err
	}
	if err := b.planning(ctx, large); err != nil {
		return err
	}
	small, err := b.organisation(ctx, "small", b.Typing)
	if err != nil {
		return err
	}
	if err := b.typing(ctx, small); err != nil {
		return err
	}
	if err := b.urgent(ctx, small); err != nil {
		return err
	}
	if err := b.incoming(ctx, small); err != nil {
		return err
	}
	if err := b.sending(ctx, large); err != nil {
		return err
	}
	listed, err := b.organisation(ctx, "lists", b.Lists)
	if err != nil {
		return err
	}
	return b.lists(ctx, listed)
}

func (b *bench) say(format string, args ...any) {
	_, _ = fmt.Fprintf(b.Out, format+"\n", args...) // nobody reads it if this fails
}

// organisation makes a data folder with about so many people.
func (b *bench) organisation(ctx context.Context, name string, people int) (string, error) {
	began := time.Now()
	files, data := filepath.Join(b.folder, name+"-files"), filepath.Join(b.folder, name)
	if err := demo.WriteFiles(files, people); err != nil {
		return "", err
	}
	s, err := store.Open(data)
	if err != nil {
		return "", err
	}
	err = b.fill(ctx, s, files)
	b.say("made %d people in %s (not a figure of its own)", people, time.Since(began).Round(time.Millisecond))
	return data, errors.Join(err, s.Close())
}

// The account that measures.
const (
	benchLogin    = "bench@quillmere.example"
	benchPassword = "a password for measuring"
)

func (b *bench) fill(ctx context.Context, s *store.Store, files string) error {
	o := demo.Organisation()
	o.Hold = 0
	o.Sending.BigFrom = 1 << 30
	if err := s.PutOrganisation(ctx, o); err != nil {
		return err
	}
	hash, err := password.Hash(benchPassword, password.Usual)
	if err != nil {
		return err
	}
	account := store.Account{
		Login: benchLogin, Name: "Bench", PasswordHash: hash, Active: true, Grant: access.Program.Grant,
	}
	if _, err := s.PutAccount(ctx, account); err != nil {
		return err
	}
	entries, err := os.ReadDir(files)
	if err != nil {
		return err
	}
	var names []string
	for _, e := range entries {
		names = append(names, e.Name())
	}
	return demo.Load(ctx, s, names, os.DirFS(files), time.Now())
}

// everybody is a message to everybody on the roster, with fields and a text of
// two parts.
func everybody() message.Draft {
	return message.Draft{
		Content: message.Content{Subject: "Outing moved, {{first name}}", Email: rich.Lines("Dear {{first name}},\n\nthe water at the boathouse is too high. We will meet at Harrow Lock instead, at 08:30. " +
			"{{dependents, else Your crew}} should bring a warm layer and a drink. Parking is on the east side only.")},
		Routing: message.Routing{Urgency: roster.Emergency, Reason: "measuring", Audience: audience.Audience{
			Receivers: audience.Both,
			Parts: []audience.Part{
				{Kind: audience.ByRule, Rule: roster.Rule{{On: roster.OnStatus, Test: roster.Is, Value: "active"}}},
			},
		}},
	}
}

// planning measures the plan for everybody beside reading its rows.
func (b *bench) planning(ctx context.Context, data string) error {
	s, err := store.Open(data)
	if err != nil {
		return err
	}
	defer s.Close() //nolint:errcheck // nothing was written
	r, err := s.Roster(ctx)
	if err != nil {
		return err
	}
	o, err := s.Organisation(ctx)
	if err != nil {
		return err
	}
	addresses, languages := 0, map[string]bool{}
	for i := range r.Len() {
		addresses += len(r.At(i).Addresses)
		languages[r.At(i).Language] = true
	}
	b.say("\nplan for everybody: %d people, %d addresses, %d languages", r.Len(), addresses, len(languages))
	reading, err := median(5, func() error { return s.ReadEverybody(ctx) })
	if err != nil {
		return err
	}
	settings := plan.Settings{Fixed: o.Fixed(access.Program)}
	planning, err := b.plans("planned, rendered and segmented", r, settings)
	if err != nil {
		return err
	}
	b.say("  just reading those rows          %8s  the plan takes %.1f times as long (bar 3)", reading, float64(
		planning)/float64(reading))
	settings.Copies = copiesOf(everybody(), settings.Language)
	planning, err = b.plans(fmt.Sprintf("the same with %d copies", len(settings.Copies)), r, settings)
	b.say("                                             %.1f times as long as reading", float64(planning)/float64(reading))
	return err
}

// plans measures one plan for everybody.
func (b *bench) plans(what string, r *roster.Roster, settings plan.Settings) (time.Duration, error) {
	var deliveries int
	var grown uint64
	took, err := median(5, func() error {
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		p := plan.Make(r, everybody(), settings)
		sum := p.Summarise(r)
		runtime.ReadMemStats(&after)
		deliveries, grown = sum.Deliveries, after.TotalAlloc-before.TotalAlloc
		return nil
	})
	b.say("  %-32s %8s  %d deliveries, %d MB allocated (bar 1.5 s, 400 MB)", what, took, deliveries, grown>>20)
	return took, err
}

func median(times int, run func() error) (time.Duration, error) {
	took := make([]time.Duration, times)
	for i := range took {
		began := time.Now()
		if err := run(); err != nil {
			return 0, err
		}
		took[i] = time.Since(began)
	}
	slices.Sort(took)
	return took[times/2].Round(100 * time.Microsecond), nil
}

// textsOnly is the same by text alone.
func textsOnly() message.Draft {
	d := everybody()
	d.Steps = precedence.Steps{{roster.Text}}
	d.FirstOnly = true
	return d
}

// sender is who sends what is measured.
func sender(ctx context.Context, s *store.Store) (access.Principal, error) {
	account, err := s.AccountByLogin(ctx, benchLogin)
	return account.Principal(access.Inside), err
}
