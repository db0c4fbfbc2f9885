// Package httpapi serves the program: the typed API, sign-in, server-sent events
// and the interface's files. The routes of each area are in a package below it;
// handlers decode, call and encode.
package httpapi

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"net/http"
	"net/netip"
	"reflect"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"upperlantern/internal/backup"
	"upperlantern/internal/calendar"
	"upperlantern/internal/carrier"
	"upperlantern/internal/carriers"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desks"
	"upperlantern/internal/editing"
	"upperlantern/internal/exporting"
	"upperlantern/internal/founding"
	deskroutes "upperlantern/internal/httpapi/desks"
	"upperlantern/internal/httpapi/office"
	"upperlantern/internal/httpapi/outgoing"
	"upperlantern/internal/httpapi/people"
	"upperlantern/internal/httpapi/reports"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/httpapi/writing"
	"upperlantern/internal/importer"
	"upperlantern/internal/letters"
	"upperlantern/internal/messages"
	"upperlantern/internal/passes"
	"upperlantern/internal/password"
	"upperlantern/internal/personal"
	"upperlantern/internal/reading"
	"upperlantern/internal/reporting"
	"upperlantern/internal/seal"
	"upperlantern/internal/sending"
	"upperlantern/internal/shelf"
	"upperlantern/internal/standin"
	"upperlantern/internal/store"
	"upperlantern/internal/translation"
)

// Bench is what the shipped stand-ins received.
type Bench interface {
	Received(ctx context.Context, addresses []string) ([]standin.Item, error)
	SetDown(ctx context.Context, channel roster.Channel, until time.Time) error
	Down(channel roster.Channel) (until time.Time)
	SetWeather(ctx context.Context, w standin.Weather) error
	Weather() standin.Weather
	SetFault(ctx context.Context, address string, f standin.Fault) error
	FaultsOf(addresses []string) map[string]standin.Fault
	File(ctx context.Context, addresses []string, hash string) (standin.ItemFile, []byte, error)
	Press(ctx context.Context, addresses []string, key, pressed string) error
	Answer(ctx context.Context, addresses []string, key string, w standin.Written) error
	Write(ctx context.Context, channel roster.Channel, from, to string, w standin.Written) error
}

// Options are what a server is made of.
type Options struct {
	Store       *store.Store
	Messages    *messages.Service
	Sending     *sending.Service
	Calendar    *calendar.Service
	Importer    *importer.Importer
	Editor      *editing.Editor
	Personal    *personal.Service
	Shelf       *shelf.Service
	Letters     *letters.Service
	Translation *translation.Service
	Reading     *reading.Service
	Reporting   *reporting.Service
	Exporting   *exporting.Service
	Desks       *desks.Service
	Founding    *founding.Service // nil where there is an organisation
	Backups     *backup.Service   // nil when none are made
	Passes      *passes.Service
	Key         seal.Key // to the secrets of second factors
	Carriers    outgoing.Carriers
	// CarrierSetup is the organisation's own carriers, and Started what the program was
	// started with.
	CarrierSetup *carriers.Service
	Started      office.Started
	Events       *Events
	Reports      http.Handler // takes the reports of gateways
	Incoming     http.Handler // takes what gateways post of what people send to us
	// OneClickKey is the delivery that the token of a link names, if we signed it.
	OneClickKey func(token string) (key string, ok bool)
	// AnswerKey is the delivery that the token of a page names, if we signed it.
	AnswerKey func(token string) (key string, ok bool)
	Shown     http.Handler // takes what devices say about pushes
	Bench     func() Bench // nil, or it gives nil, while the stand-ins do not run
	Files     fs.FS        // the built interface
	Now       func() time.Time
	Log       *slog.Logger
	// DemoPassword is shown on the sign-in page with the demo's accounts; ""
	// offers none.
	DemoPassword string
	// Secure marks the session cookie for HTTPS only, and tells browsers to stay there.
	Secure bool
	// Loopback tells that the program listens on its own machine only.
	Loopback bool
	// Site is where people reach the interface, for links that leave it; "" is as each
	// request names it.
	Site string
	// PasswordCost is what the hashes of passwords take.
	PasswordCost *password.Cost
	// Proxies are those whose X-Forwarded-For is believed.
	Proxies []netip.Prefix
}

type server struct {
	Options
	kit      route.Kit
	sessions *scs.SessionManager
	door     *door
	bodies   *bodies
	files    *bodies // from personal pages
	writing  *writing.Area
}

const sessionLifetime = 12 * time.Hour

// New makes the handler for everything that the program serves, and the
// description of its API.
func New(o Options) (http.Handler, *huma.OpenAPI) {
	kit := route.Kit{Store: o.Store, Now: o.Now, Log: o.Log}
	s := &server{
		Options: o, kit: kit, sessions: scs.New(), door: newDoor(o.PasswordCost),
		bodies: newBodies(bodiesAtOnce, bodiesOfOne), files: newBodies(filesAtOnce, filesOfOne),
		writing: &writing.Area{
			Kit: kit, Sending: o.Sending, Calendar: o.Calendar, Letters: o.Letters, Shelf: o.Shelf, Editor: o.Editor,
			Translation: o.Translation, Reading: o.Reading,
		},
	}
	s.sessions.Lifetime = sessionLifetime
	s.sessions.Cookie.Name = "lantern_session"
	s.sessions.Cookie.SameSite = http.SameSiteStrictMode
	s.sessions.Cookie.Secure = o.Secure
	s.sessions.ErrorFunc = s.sessionFailed
	if o.Store != nil {
		s.sessions.Store = newSessionStore(o.Store.Sessions())
	}

	r := chi.NewRouter()
	r.Use(middleware.Recoverer, patience, s.knowClient, s.secureHeaders, middleware.Compress(5))
	r.Get("/healthz", s.health)
	r.Get("/readyz", s.ready)
	r.With(s.strangers).Method(http.MethodPost, "/carrier/reports", o.Reports)
	items := newBodies(itemsAtOnce, itemsAtOnce)
	r.With(strangersUpTo(carrier.LargestItem, strangerBody, items)).Method(http.MethodPost, "/carrier/incoming", o.Incoming)
	r.With(s.strangers).Method(http.MethodPost, "/carrier/pushes/{key}", o.Shown)
	r.With(s.strangers).Get(OneClickPath+"{token}", s.oneClick)
	r.With(s.strangers).Post(OneClickPath+"{token}", s.oneClick)
	r.With(s.strangers).Get(AnswerPath+"{token}", s.answer)
	r.With(s.strangers).Post(AnswerPath+"{token}", s.answer)
	r.Get("/own/{token}/manifest.webmanifest", s.manifest)
	r.Get("/update/{token}", toOwn)
	r.Get(writing.FeedPath+"{token}.ics", s.writing.Feed)
	r.Get("/carrier/recordings/{hash:[0-9a-f]{64}}", s.writing.Recording)
	var description *huma.OpenAPI
	r.Route("/api", func(r chi.Router) {
		r.Use(http.NewCrossOriginProtection().Handler, notKept, s.sessions.LoadAndSave, s.requireAccount)
		description = s.routes(r)
		r.NotFound(func(w http.ResponseWriter, r *http.Request) {
			route.Write(w, http.StatusNotFound, "There is nothing at "+r.URL.Path+".")
		})
	})
	r.NotFound(s.file)
	return r, description
}

func (s *server) routes(r chi.Router) *huma.OpenAPI {
	huma.DefaultArrayNullable = false
	config := huma.DefaultConfig("Upper Lantern", "1")
	config.DocsPath, config.SchemasPath = "", ""
	config.OpenAPIPath = "/openapi"
	config.Servers = []*huma.Server{{URL: "/api"}}
	config.CreateHooks = nil // no links to schemas in answers
	api := humachi.New(r, config)
	route.Enumerate(config.Components.Schemas)
	config.Components.Schemas.RegisterTypeAlias(reflect.TypeFor[rich.Doc](), reflect.TypeFor[writing.Document]())
	s.beginRoutes(api)
	s.signInRoutes(api)
	s.accountRoutes(api)
	s.factorRoutes(api)
	s.passRoutes(api)
	(&people.Area{
		Kit: s.kit, Messages: s.Messages, Editor: s.Editor, Importer: s.Importer, Boards: s.Sending, Personal: s.Personal,
	}).Routes(api)
	(&office.Area{
		Kit: s.kit, Editor: s.Editor, Sessions: s, Backups: s.Backups, Carriers: s.CarrierSetup, Started: s.Started,
		Passes: s.Passes, Conditions: s.Carriers,
	}).Routes(api)
	(&outgoing.Area{
		Kit: s.kit, Messages: s.Messages, Sending: s.Sending, Carriers: s.Carriers, Backups: s.Backups,
	}).Routes(api)
	(&reports.Area{Kit: s.kit, Reporting: s.Reporting, Exporting: s.Exporting}).Routes(api)
	(&deskroutes.Area{Kit: s.kit, Desks: s.Desks, Editor: s.Editor}).Routes(api)
	s.writing.Routes(api)
	s.benchRoutes(api)
	s.eventRoutes(api)
	return api.OpenAPI()
}

// notKept keeps answers out of caches, unless a route says otherwise.
func notKept(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Cache-Control", "no-store")
		next.ServeHTTP(w, r)
	})
}

// secureHeaders keep the page from being framed, sniffed or scripted from elsewhere.
func (s *server) secureHeaders(next http.Handler) http.Handler {
	const policy = "default-src 'none'; script-src 'self'; worker-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; media-src 'self' blob:; " +
		"font-src 'self'; manifest-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		if s.Secure {
			h.Set("Strict-Transport-Security", "max-age=31536000; includeSubDomains")
		}
		h.Set("Permissions-Policy", "camera=(), geolocation=(), microphone=()")
		next.ServeHTTP(w, r)
	})
}

// health tells whether the program runs and its database answers.
func (s *server) health(w http.ResponseWriter, r *http.Request) {
	answerProbe(w, s.Store.Ping(r.Context()))
}

// ready tells whether the program can do its work: it writes to its database.
func (s *server) ready(w http.ResponseWriter, r *http.Request) {
	answerProbe(w, s.Store.Ready(r.Context()))
}

func answerProbe(w http.ResponseWriter, err error) {
	w.Header().Set("Cache-Control", "no-store")
	switch {
	case errors.Is(err, store.ErrFull):
		http.Error(w, "the disk is full: nothing can be saved", http.StatusServiceUnavailable)
	case errors.Is(err, fs.ErrNotExist):
		http.Error(w, "the database is gone from the data folder", http.StatusServiceUnavailable)
	case err != nil:
		http.Error(w, "the database cannot be used", http.StatusServiceUnavailable)
	default:
		_, _ = w.Write([]byte("ok\n"))
	}
}

// strangersPages are the pages of those who have no account, which need little else.
var strangersPages = map[string]string{
	"/own/": "own.html", "/terminal": "own.html", "/reading/": "reading.html",
}

// file serves the built interface. Every path that is no file is the
// interface's own, so that its addresses can be kept and reloaded.
func (s *server) file(w http.ResponseWriter, r *http.Request) {
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		http.Error(w, "nothing here takes "+r.Method, http.StatusMethodNotAllowed)
		return
	}
	name := strings.TrimPrefix(r.URL.Path, "/")
	if info, err := fs.Stat(s.Files, name); name == "" || err != nil || info.IsDir() {
		if strings.HasPrefix(name, "assets/") {
			http.NotFound(w, r)
			return
		}
		name = "index.html"
		for path, page := range strangersPages {
			if strings.HasPrefix(r.URL.Path, path) {
				name = page
			}
		}
	}
	w.Header().Set("Cache-Control", "no-cache")
	if strings.HasPrefix(name, "assets/") { // named by their content
		w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	}
	http.ServeFileFS(w, r, s.Files, name)
}
