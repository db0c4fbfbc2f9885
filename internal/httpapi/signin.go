package httpapi

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"net/http"
	"slices"
	"strings"

	"github.com/alexedwards/scs/sqlite3store"
	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/own"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/readaloud"
	"upperlantern/internal/store"
)

// Paths that strangers may call: signing in, and correcting one's own details or
// reading a copy by a personal link.
const (
	signInPath  = "/api/sign-in"
	beginPath   = "/api/begin/"
	ownPath     = "/api/own/"
	terminals   = "/api/terminals"
	readingPath = "/api/reading/"
)

// sessionStore reads sessions without waiting for whoever writes, so that
// pages answer while a large file is loaded.
type sessionStore struct {
	*sqlite3store.SQLite3Store // writes
	reads                      *sqlite3store.SQLite3Store
}

func newSessionStore(reader, writer *sql.DB) sessionStore {
	return sessionStore{
		SQLite3Store: sqlite3store.NewWithCleanupInterval(writer, 0),
		reads:        sqlite3store.NewWithCleanupInterval(reader, 0),
	}
}

// Find returns the data of a session; see scs.Store.
func (s sessionStore) Find(token string) ([]byte, bool, error) { return s.reads.Find(token) }

// sessionFailed answers when a session cannot be read or kept.
func (s *server) sessionFailed(w http.ResponseWriter, r *http.Request, err error) {
	if s.Store.Full() {
		route.Write(w, http.StatusInsufficientStorage, route.DiskFull)
		return
	}
	s.Log.ErrorContext(r.Context(), "keeping a session", "error", err)
	route.Write(w, http.StatusInternalServerError, "Something went wrong here; try again.")
}

// requireAccount refuses strangers everywhere but at the sign-in.
func (s *server) requireAccount(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		path := r.URL.Path
		if strings.HasPrefix(path, beginPath) {
			s.atHome(s.strangers(next)).ServeHTTP(w, r)
			return
		}
		if strings.HasPrefix(path, ownPath) && strings.HasSuffix(path, "/files") {
			strangersUpTo(own.MostFile, strangerFile, s.files)(next).ServeHTTP(w, r)
			return
		}
		if openToStrangers(path) {
			s.strangers(next).ServeHTTP(w, r)
			return
		}
		account, err := s.Store.Account(r.Context(), s.sessions.GetInt64(r.Context(), "account"))
		if errors.Is(err, store.ErrNotFound) ||
			err == nil && account.Epoch != s.sessions.GetInt64(r.Context(), "epoch") {
			if r.ContentLength != 0 {
				w.Header().Set("Connection", "close") // a body is not waited for
			}
			route.Write(w, http.StatusUnauthorized, "Sign in first.")
			return
		}
		if err != nil {
			s.Log.ErrorContext(r.Context(), "finding the account", "error", err)
			route.Write(w, http.StatusInternalServerError, "Something went wrong here; try again.")
			return
		}
		principal := account.Principal(access.BySession)
		if len(account.Factor) == 0 {
			o, err := s.Store.Organisation(r.Context())
			if err != nil {
				s.Log.ErrorContext(r.Context(), "finding what needs a second factor", "error", err)
				route.Write(w, http.StatusInternalServerError, "Something went wrong here; try again.")
				return
			}
			principal.Grant = account.Within(o.FactorFor)
		}
		next.ServeHTTP(w, r.WithContext(route.For(r.Context(), principal)))
	})
}

func openToStrangers(path string) bool {
	if path == signInPath || path == forgottenPath || path == terminals {
		return true
	}
	for _, open := range []string{ownPath, readingPath, passPath} {
		if strings.HasPrefix(path, open) {
			return true
		}
	}
	return false
}

type offeredAccount struct {
	Login    string `json:"login"`
	Name     string `json:"name"`
	Duty     string `json:"duty"`
	Password string `json:"password"`
}

type welcome struct {
	Founded      bool             `json:"founded" doc:"Whether there is an organisation to sign in to"`
	Organisation string           `json:"organisation"`
	Demo         []offeredAccount `json:"demo" doc:"The demo's accounts; none outside the demo"`
}

type session struct {
	Login        string         `json:"login"`
	Name         string         `json:"name"`
	Duty         string         `json:"duty"`
	Initials     string         `json:"initials"`
	Organisation string         `json:"organisation"`
	TimeZone     string         `json:"timeZone" doc:"IANA"`
	Language     string         `json:"language" doc:"In which messages are written, BCP 47"`
	HoldSeconds  int            `json:"holdSeconds"`
	Fields       []string       `json:"fields" doc:"What may stand between {{ and }}"`
	ReadsAloud   bool           `json:"readsAloud" doc:"Whether a text can be heard here before it is sent"`
	Bench        bool           `json:"bench" doc:"Whether the shipped stand-ins run"`
	Rights       []access.Right `json:"rights" doc:"What the account may do"`
	Scope        roster.Scope   `json:"scope" doc:"Where it may do it"`
	Units        []string       `json:"units" doc:"The same in words; none for the whole organisation"`
	Lacks        []string       `json:"lacks" doc:"What it may not do until it has a second factor, in words"`
	Told         int64          `json:"told" doc:"Which change was the last that was told to those who listen"`
}

func (s *server) signInRoutes(api huma.API) {
	route.Get(api, "/sign-in", "welcome", "What the sign-in page shows", s.welcome)
	route.Add(api, route.New(http.MethodPost, "/sign-in", "sign-in", "Sign in").Small(), s.signIn)
	route.Get(api, "/session", "session", "Who is signed in, and where", s.session)
	route.Del(api, "/session", "sign-out", "Sign out", s.signOut)
}

func (s *server) welcome(ctx context.Context, _ *struct{}) (*route.Body[welcome], error) {
	o, err := s.Store.Organisation(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return route.Answer(welcome{Demo: []offeredAccount{}}), nil
	}
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	out := welcome{Founded: true, Organisation: o.Name, Demo: []offeredAccount{}}
	if s.DemoPassword == "" {
		return route.Answer(out), nil
	}
	accounts, err := s.Store.Accounts(ctx)
	for _, a := range accounts {
		if !a.Active {
			continue
		}
		out.Demo = append(
			out.Demo,
			offeredAccount{Login: a.Login, Name: a.Name, Duty: a.Duty, Password: s.DemoPassword},
		)
	}
	return route.Answer(out), s.kit.Problem(ctx, err)
}

type credentials struct {
	Body struct {
		Login    string `json:"login" maxLength:"200"`
		Password string `json:"password" maxLength:"200"`
		Code     string `json:"code,omitempty" maxLength:"40" doc:"Of the second factor, or a recovery code"`
	}
}

func (s *server) signIn(ctx context.Context, in *credentials) (*route.Body[session], error) {
	account, err := s.Store.AccountByLogin(ctx, strings.TrimSpace(in.Body.Login))
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, s.kit.Problem(ctx, err)
	}
	now, network := s.Now(), networkOf(ctx)
	known, err := s.Store.KnowsNetwork(ctx, account.ID, network, now)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	try := tryOf(in.Body.Login, network, known)
	if wait := s.door.begin(try, network, now); wait > 0 {
		return nil, tooMany(wait)
	}
	match, err := s.door.compare(ctx, in.Body.Password, account.PasswordHash)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	if !match {
		s.tellSlowed(account, try, network)
		return nil, huma.Error401Unauthorized("The login or the password is wrong.")
	}
	if len(account.Factor) > 0 {
		if strings.TrimSpace(in.Body.Code) == "" {
			s.door.unfinished(try, network)
			return nil, errNeedsCode()
		}
		if match, err = s.second(ctx, account, in.Body.Code); err != nil {
			return nil, s.kit.Problem(ctx, err)
		}
		if !match {
			s.tellSlowed(account, try, network)
			return nil, huma.Error401Unauthorized(
				"This code does not count: it is wrong, was used, or is no longer that of this moment.",
			)
		}
	}
	s.door.opened(try, network)
	if err := s.Store.KnowNetwork(ctx, account.ID, network, now); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	if err := s.Begin(ctx, account); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	return s.sessionOf(ctx, account)
}

// tellSlowed tells an account when wrong tries to sign in as it have to wait now.
func (s *server) tellSlowed(account store.Account, try, network string) {
	if account.ID != 0 && s.door.slows(try, s.Now()) {
		s.Passes.Slowed(account, network)
	}
}

// Begin makes the session at hand one of an account.
func (s *server) Begin(ctx context.Context, account store.Account) error {
	if err := s.sessions.RenewToken(ctx); err != nil {
		return err
	}
	s.sessions.Put(ctx, "account", account.ID)
	s.sessions.Put(ctx, "epoch", account.Epoch)
	s.begunHere(ctx, rand.Text())
	return s.Store.SetSite(ctx, account.ID, route.Site(ctx))
}

func (s *server) session(ctx context.Context, _ *struct{}) (*route.Body[session], error) {
	account, err := s.Store.Account(ctx, route.By(ctx).ID)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	return s.sessionOf(ctx, account)
}

func (s *server) sessionOf(ctx context.Context, account store.Account) (*route.Body[session], error) {
	told := s.Events.Told() // before anything is read
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	out := session{
		Told: told, Login: account.Login, Name: account.Name, Duty: account.Duty, Initials: initials(account.Name),
		Organisation: o.Name, TimeZone: o.TimeZone, Language: o.Language, HoldSeconds: int(o.Hold.Seconds()),
		Bench: s.bench() != nil, ReadsAloud: readaloud.Available(),
		Rights: account.Within(o.FactorFor).Rights, Scope: account.Scope, Units: []string{}, Lacks: []string{},
	}
	for _, right := range account.Rights {
		if !slices.Contains(out.Rights, right) {
			out.Lacks = append(out.Lacks, right.Words())
		}
	}
	r, err := s.Store.RosterWithin(ctx, account.Scope)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	for _, u := range account.Scope.Units {
		out.Units = append(out.Units, r.UnitPath(u))
	}
	for _, f := range plan.Fields(r) {
		out.Fields = append(out.Fields, string(f))
	}
	return route.Answer(out), nil
}

// Ended tells that sessions may have ended.
func (s *server) Ended() { s.Events.Sessions() }

// Hash makes the hash of a new password, when it is its turn.
func (s *server) Hash(ctx context.Context, password string) (string, error) {
	return s.door.hash(ctx, password)
}

func initials(name string) string {
	var out []rune
	for _, word := range strings.Fields(name) {
		out = append(out, []rune(word)[0])
	}
	if len(out) > 2 {
		out = []rune{out[0], out[len(out)-1]}
	}
	return strings.ToUpper(string(out))
}

func (s *server) signOut(ctx context.Context, _ *struct{}) (*struct{}, error) {
	err := s.sessions.Destroy(ctx)
	s.Events.Sessions()
	return nil, s.kit.Problem(ctx, err)
}
