// Package app puts the parts together and runs them.
package app

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	mathrand "math/rand/v2"
	"net"
	"net/http"
	"net/netip"
	"path/filepath"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"filippo.io/age"
	"github.com/emersion/go-smtp"
	"golang.org/x/sync/errgroup"

	"upperlantern/internal/backup"
	"upperlantern/internal/calendar"
	"upperlantern/internal/carrier"
	"upperlantern/internal/carriers"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desks"
	"upperlantern/internal/dispatch"
	"upperlantern/internal/editing"
	"upperlantern/internal/exporting"
	"upperlantern/internal/founding"
	"upperlantern/internal/httpapi"
	"upperlantern/internal/importer"
	"upperlantern/internal/letters"
	"upperlantern/internal/messages"
	"upperlantern/internal/passes"
	"upperlantern/internal/password"
	"upperlantern/internal/personal"
	"upperlantern/internal/reading"
	"upperlantern/internal/reporting"
	"upperlantern/internal/sending"
	"upperlantern/internal/shelf"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
	"upperlantern/internal/typeset"
)

// Carriers says where deliveries are taken; what it does not name the organisation's
// settings say. With StandIns the shipped ones are started on loopback and nothing else
// is looked at.
type Carriers struct {
	StandIns     bool
	MailServer   string // smtp://…
	TextGateway  string // http://…/texts
	VoiceGateway string // http://…/calls
	// PushTransport leads to the push services that devices name; nil is the network.
	PushTransport http.RoundTripper
	Translations  string // http://…/translations; "" for none
	Token         string // for the gateways
	Secret        string // with which gateways sign reports
	ReturnMail    string // host:port at which mail comes back
	// ReportsURL is how gateways reach us; "" derives it from the listener.
	ReportsURL string
	PerSecond  map[roster.Channel]float64
}

// named reports whether the command line names any carrier.
func (c Carriers) named() bool {
	return c.StandIns || c.MailServer != "" || c.TextGateway != "" || c.VoiceGateway != ""
}

// Config is how an instance runs.
type Config struct {
	Data         string
	Address      string // host:port of the interface
	Carriers     Carriers
	DemoPassword string
	Secure       bool
	Site         string         // where people reach the interface; "" is as each request names it
	Proxies      []netip.Prefix // whose X-Forwarded-For is believed
	KeyFile      string         // of the key to the carriers' secrets; "" is one in the data folder
	Backups      string         // the folder in which backups are kept; "" makes none
	BackupKey    age.Recipient  // nil leaves them unencrypted
	PasswordCost *password.Cost // nil is password.Usual
	Begins       bool           // an organisation is set up where there is none
	Files        fs.FS
	Log          *slog.Logger
	Now          func() time.Time
	// Delay is how long the stand-ins take to report; nil is a lifelike spread.
	Delay func() time.Duration
}

// Instance is a running program.
type Instance struct {
	Store       *store.Store
	Sending     *sending.Service
	Translation *translation.Service
	Reading     *reading.Service
	Reporting   *reporting.Service
	Desks       *desks.Service
	Box         *standin.Box // nil without stand-ins
	URL         string
	BeginURL    string // the one-time address of the set-up, or ""

	config     Config
	handler    slot
	loopback   bool
	carriers   *carriers.Service
	dispatcher *dispatch.Dispatcher
	editor     *editing.Editor
	lining     sync.Mutex               // of the carriers
	standIns   *places                  // nil until they run
	secrets    atomic.Pointer[[]string] // with which gateways sign reports
	returns    string                   // host:port at which mail comes back
	running    context.Context          // what runs ends with it
	group      *errgroup.Group
	stop       context.CancelFunc
	closes     []func() error
}

// Start opens the data folder and the listeners and begins to work. What goes
// wrong now is returned; what ends it later comes from Wait.
func Start(ctx context.Context, c Config) (*Instance, error) {
	if c.Now == nil {
		c.Now = time.Now
	}
	if c.Delay == nil {
		c.Delay = lifelike
	}
	if c.PasswordCost == nil {
		c.PasswordCost = password.Usual
	}
	open := store.OpenServed
	if c.Begins {
		open = func(_ context.Context, folder string) (*store.Store, error) { return store.Open(folder) }
	}
	s, err := open(ctx, c.Data)
	if err != nil {
		return nil, err
	}
	unlock, err := store.Lock(c.Data)
	if err != nil {
		return nil, errors.Join(err, s.Close())
	}
	ctx, stop := context.WithCancel(ctx)
	group, ctx := errgroup.WithContext(ctx)
	i := &Instance{Store: s, config: c, group: group, stop: stop, closes: []func() error{s.Close, unlock}}
	if err := i.start(ctx); err != nil {
		return nil, errors.Join(err, i.Close())
	}
	return i, nil
}

// lifelike is how long handsets and mailboxes usually take.
func lifelike() time.Duration {
	return 200*time.Millisecond + time.Duration(mathrand.ExpFloat64()*float64(1500*time.Millisecond))
}

func (i *Instance) start(ctx context.Context) error {
	c := &i.config
	web, err := net.Listen("tcp", c.Address)
	if err != nil {
		return fmt.Errorf("%s cannot be listened on: %w; choose another with PORT or --port", c.Address, err)
	}
	i.URL = "http://" + web.Addr().String()
	at, _ := web.Addr().(*net.TCPAddr)
	i.loopback = at != nil && at.IP.IsLoopback()
	organisation, err := i.Store.Organisation(ctx)
	if errors.Is(err, store.ErrNotFound) {
		err = i.begin(ctx)
	} else if err == nil {
		err = i.work(ctx, organisation)
	}
	if err != nil {
		return errors.Join(err, web.Close())
	}
	i.serveHTTP(ctx, web, &i.handler)
	return nil
}

// begin sets up an organisation behind a one-time address, and then works.
func (i *Instance) begin(ctx context.Context) (err error) {
	c := i.config
	f := &founding.Service{
		Store: i.Store, Now: c.Now, Carried: c.Carriers.named(),
		Hash: func(_ context.Context, typed string) (string, error) { return password.Hash(typed, c.PasswordCost) },
		Founded: func(context.Context) error {
			o, err := i.Store.Organisation(ctx)
			if err != nil {
				return err
			}
			return i.work(ctx, o)
		},
	}
	token, err := f.Token(ctx)
	if err != nil {
		return err
	}
	i.BeginURL = i.URL + "/begin/" + token
	nothing := http.NotFoundHandler()
	handler, _ := httpapi.New(httpapi.Options{
		Store: i.Store, Founding: f, Loopback: i.loopback, Reports: nothing, Shown: nothing, Files: c.Files, Now: c.Now,
		Log: c.Log, PasswordCost: c.PasswordCost, Secure: c.Secure, Proxies: c.Proxies,
		Passes: passes.New(passes.Service{Store: i.Store, Now: c.Now, Log: c.Log}),
	})
	i.handler.set(handler)
	return nil
}

// slot is a handler that can be exchanged while it serves.
type slot struct{ now atomic.Pointer[http.Handler] }

func (s *slot) set(h http.Handler) { s.now.Store(&h) }

func (s *slot) ServeHTTP(w http.ResponseWriter, r *http.Request) { (*s.now.Load()).ServeHTTP(w, r) }

// work begins to do what an organisation needs done.
func (i *Instance) work(ctx context.Context, organisation store.Organisation) error {
	c := &i.config
	if err := i.provide(ctx, &organisation); err != nil {
		return err
	}
	returns, err := i.listenLoopback(c.Carriers.ReturnMail)
	if err != nil {
		return err
	}
	i.running, i.returns = ctx, returns.Addr().String()
	events := httpapi.NewEvents()
	if err := i.employ(ctx, organisation, events); err != nil {
		return errors.Join(err, returns.Close())
	}
	dispatcher := i.dispatcher
	kept := &messages.Service{Store: i.Store, Now: c.Now, Moved: events.Message}
	i.Sending = &sending.Service{
		Store: i.Store, Messages: kept, Now: c.Now, Off: dispatcher.Off, Recall: dispatcher.Recall,
		TakeBack: dispatcher.Pause, Held: func(id int64) {
			dispatcher.Wake()
			events.Message(id)
		},
		Tell: func(ctx context.Context, account store.Account, subject, body string) {
			i.group.Go(func() error {
				err := errors.Join(i.mail(ctx, account.Login, subject, body), i.push(ctx, account.Login, subject, body))
				if err != nil && ctx.Err() == nil {
					c.Log.Warn("an account could not be told", "account", account.Login, "error", err)
				}
				return nil
			})
		},
	}
	i.Translation = i.translation(kept, events)
	i.Desks = &desks.Service{
		Store: i.Store, Sender: i.Sending, Report: dispatcher.Report, Reader: i.Translation, Now: c.Now, Changed: events.Desk,
		Answered: events.Message, Tell: i.text, Log: c.Log,
	}
	i.Reading = &reading.Service{
		Store: i.Store, Messages: kept, Copies: i.Translation, Sender: i.Sending, Now: c.Now, Changed: events.Message,
	}
	i.Reporting = &reporting.Service{
		Store: i.Store, Messages: kept, Now: c.Now, Log: c.Log, Mail: i.mail, Site: c.Site,
	}
	im := &importer.Importer{Store: i.Store, Now: c.Now, Changed: events.Import, Log: c.Log}
	fonts := sync.OnceValues(func() (*typeset.Fonts, error) { return typeset.OpenFonts(c.Files) })
	exports := &exporting.Service{
		Store: i.Store, Messages: kept, Reporting: i.Reporting, Fonts: fonts, Folder: filepath.Join(c.Data, "exports"),
		Now: c.Now, Log: c.Log,
	}
	if err := exports.Clear(); err != nil {
		return fmt.Errorf("removing what was exported before: %w", err)
	}
	stopExports := func() error { exports.Close(); return exports.Clear() }
	i.closes = slices.Insert(i.closes, 0, stopExports) // they read the database
	i.editor = &editing.Editor{Store: i.Store, Now: c.Now, Changed: events.Roster}
	options := httpapi.Options{
		Store: i.Store, Messages: kept, Sending: i.Sending, Importer: im,
		Calendar: &calendar.Service{Store: i.Store, Messages: kept, Now: c.Now},
		Shelf:    &shelf.Service{Store: i.Store, Now: c.Now},
		Letters:  &letters.Service{Plans: i.Sending, Files: i.Store, Fonts: fonts, Now: c.Now},
		Editor:   i.editor,
		Personal: &personal.Service{
			Store: i.Store, Visits: i.editor, Desks: i.Desks, Report: dispatcher.Report, Now: c.Now,
		},
		Translation:  i.Translation,
		Reading:      i.Reading,
		Reporting:    i.Reporting,
		Exporting:    exports,
		Site:         c.Site,
		Carriers:     dispatcher,
		CarrierSetup: i.carriers, Started: i.started(),
		Bench:  i.bench,
		Events: events, Reports: carrier.Reports(i.reportSecrets, i.Desks.TakeReport, store.ErrNotFound, c.Now),
		Incoming: carrier.Incoming(i.reportSecrets, i.Desks.Take, c.Now), Desks: i.Desks,
		OneClickKey: func(token string) (string, bool) { return carrier.OneClickKey(token, organisation.Secret) },
		AnswerKey:   func(token string) (string, bool) { return carrier.AnswerKey(token, organisation.Secret) },
		Shown:       carrier.Shown(dispatcher.Report, store.ErrNotFound, c.Now),
		Files:       c.Files, Now: c.Now, Log: c.Log, DemoPassword: c.DemoPassword, PasswordCost: c.PasswordCost,
		Secure: c.Secure, Proxies: c.Proxies,
	}
	if c.Backups != "" {
		options.Backups = &backup.Service{
			Store: i.Store, Folder: c.Backups, Key: c.BackupKey, Now: c.Now, Log: c.Log,
		}
		i.group.Go(func() error {
			options.Backups.Run(ctx)
			return nil
		})
	}
	options.Key = i.carriers.Key
	options.Passes = passes.New(passes.Service{Store: i.Store, Site: c.Site, Mail: i.mail, Now: c.Now, Log: c.Log})
	handler, _ := httpapi.New(options)
	i.handler.set(handler)
	inbox := carrier.Inbox{
		Reports: dispatcher.Report, Unknown: store.ErrNotFound, Take: i.Desks.Take, Secret: organisation.Secret,
		Mailbox: i.mailbox, Now: c.Now,
	}
	i.serveSMTP(ctx, returns, inbox.Server())
	i.group.Go(func() error { return dispatcher.Run(ctx) })
	i.group.Go(func() error {
		if err := i.Store.FindAll(ctx); err != nil && ctx.Err() == nil {
			c.Log.Error("taking up messages to be found", "error", err)
		}
		return nil
	})
	i.group.Go(func() error {
		i.moveOn(ctx)
		return nil
	})
	i.group.Go(func() error {
		i.readOn(ctx)
		return nil
	})
	i.group.Go(func() error {
		i.Reporting.Watch(ctx)
		return nil
	})
	i.group.Go(func() error {
		i.sweep(ctx, im)
		return nil
	})
	return nil
}

// unusedFor is how long files and devices are kept that nothing uses, and
// sweepEvery how often they are looked for.
const (
	unusedFor  = 24 * time.Hour
	sweepEvery = 10 * time.Minute
)

// sweep removes what nothing uses, and tidies the memory, until ctx ends.
func (i *Instance) sweep(ctx context.Context, im *importer.Importer) {
	for {
		before := i.config.Now().Add(-unusedFor)
		files, err := i.Store.SweepFiles(ctx, before)
		imports, failed := im.Sweep(ctx)
		err = errors.Join(err, failed, i.Store.SweepDevices(ctx, before), i.Store.TidyMemory(ctx))
		err = errors.Join(err, i.Store.SweepPasses(ctx, i.config.Now()))
		if err != nil && ctx.Err() == nil {
			i.config.Log.Error("sweeping", "error", err)
		}
		if files+imports > 0 {
			i.config.Log.Info("removed what nothing used", "files", files, "roster files", imports)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(sweepEvery):
		}
	}
}

// provide makes the secrets that an organisation lacks.
func (i *Instance) provide(ctx context.Context, o *store.Organisation) error {
	if o.Secret != "" && o.PushKeys.Private != "" {
		return nil
	}
	o.Secret = cmp.Or(o.Secret, rand.Text())
	var err error
	if o.PushKeys.Private, o.PushKeys.Public, err = carrier.NewPushKeys(); err != nil {
		return err
	}
	return i.Store.PutOrganisation(ctx, *o)
}

// lookAgain is how often recipients are looked for who are to be tried on
// their next step, and drafts whose wait for readings is over; when looking takes
// long, it is done less often.
const (
	lookAgain = time.Second
	restFor   = 20 // times as long as looking took
)

// moveOn compares plans with the roster, tries recipients on their next steps, and sends
// what waited for its readings, until ctx ends.
func (i *Instance) moveOn(ctx context.Context) {
	wait := lookAgain
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(wait):
		}
		began := time.Now()
		err := errors.Join(
			i.Sending.Review(ctx), i.Sending.MoveOn(ctx), i.Sending.SendAwaited(ctx), i.Sending.TellFilled(ctx),
			i.Desks.Tick(ctx), i.editor.JoinJobs(ctx),
		)
		if err != nil && ctx.Err() == nil {
			i.config.Log.Error("moving on", "error", err)
		}
		wait = max(lookAgain, restFor*time.Since(began))
	}
}

// readOn lets what comes in be read in the language of the desks, until ctx ends.
func (i *Instance) readOn(ctx context.Context) {
	var read int64
	for {
		var err error
		if read, err = i.Desks.ReadNew(ctx, read); err != nil && ctx.Err() == nil {
			i.config.Log.Warn("what came in could not be read in the desk's language", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(lookAgain):
		}
	}
}

// listenLoopback listens on an address, or on any free port of loopback for "".
func (i *Instance) listenLoopback(address string) (net.Listener, error) {
	if address == "" {
		address = "127.0.0.1:0"
	}
	l, err := net.Listen("tcp", address)
	if err != nil {
		return nil, fmt.Errorf("%s cannot be listened on: %w", address, err)
	}
	return l, nil
}

func (i *Instance) translation(kept *messages.Service, events *httpapi.Events) *translation.Service {
	s := &translation.Service{
		Store: i.Store, Messages: kept, Writings: i.Sending, Now: i.config.Now, Changed: events.Message,
	}
	switch c := i.config.Carriers; {
	case c.Translations != "":
		s.Machine = carrier.NewTranslation(c.Translations, c.Token)
	case i.standIns != nil:
		s.Machine = carrier.NewTranslation(i.standIns.translations, i.standIns.token)
	}
	return s
}

const shutdownTime = time.Second

func (i *Instance) serveHTTP(ctx context.Context, l net.Listener, h http.Handler) {
	// What a route takes and gives in which time, the routes say themselves.
	s := &http.Server{
		Handler: h, ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10,
		BaseContext: func(net.Listener) context.Context { return ctx },
	}
	i.group.Go(func() error {
		if err := s.Serve(limited(l, i.config.Proxies)); !errors.Is(err, http.ErrServerClosed) {
			return err
		}
		return nil
	})
	i.group.Go(func() error {
		<-ctx.Done()
		limited, cancel := context.WithTimeout(context.WithoutCancel(ctx), shutdownTime)
		defer cancel()
		if err := s.Shutdown(limited); !errors.Is(err, context.DeadlineExceeded) {
			return err
		}
		return s.Close() // open event streams, and connections that never asked for anything
	})
}

func (i *Instance) serveSMTP(ctx context.Context, l net.Listener, s *smtp.Server) {
	i.group.Go(func() error {
		if err := s.Serve(limited(l, nil)); err != nil && !errors.Is(err, smtp.ErrServerClosed) {
			return err
		}
		return nil
	})
	i.group.Go(func() error {
		<-ctx.Done()
		return s.Close()
	})
}

// Wait returns when the instance has ended.
func (i *Instance) Wait() error { return i.group.Wait() }

// Close ends the instance and closes its files.
func (i *Instance) Close() error {
	i.stop()
	err := i.group.Wait()
	for _, c := range i.closes {
		err = errors.Join(err, c())
	}
	return err
}
