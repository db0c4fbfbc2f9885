// Package founding makes an organisation in a data folder that holds none.
package founding

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/office"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/password"
	"upperlantern/internal/store"
)

// Typed is what is asked at the set-up, all but the password.
type Typed struct {
	office.Basics
	Person   string `json:"person" maxLength:"300" doc:"Who sets it up, and has the first account"`
	Login    string `json:"login" maxLength:"200" doc:"Their mail address"`
	StandIns bool   `json:"standIns" doc:"The shipped stand-ins carry what is sent: nobody is really written to"`
}

// Store is where the organisation will be.
type Store interface {
	Beginning(ctx context.Context) (store.Beginning, error)
	Begin(ctx context.Context, token string, now time.Time) error
	KeepTyped(ctx context.Context, typed string) error
	Found(ctx context.Context, o store.Organisation, first store.Account) (int64, error)
}

// Service makes an organisation.
type Service struct {
	Store Store
	Hash  func(ctx context.Context, password string) (string, error)
	Now   func() time.Time
	// Carried tells that the command line names the carriers.
	Carried bool
	// Founded is told that the organisation is there; it begins to work.
	Founded func(context.Context) error
}

var (
	// ErrNotBegun means that an address of the set-up is none, or was used.
	ErrNotBegun = errors.New("this address of the set-up does not work")
	// ErrCannot means that an organisation cannot be made of what was typed.
	ErrCannot = errors.New("it cannot be set up")
)

// Token is that of the one-time address: of the set-up that has begun, or of one that
// begins now.
func (s *Service) Token(ctx context.Context) (string, error) {
	b, err := s.Store.Beginning(ctx)
	if err == nil {
		return b.Token, nil
	}
	if !errors.Is(err, store.ErrNotFound) {
		return "", err
	}
	token := rand.Text()
	return token, s.Store.Begin(ctx, token, s.Now())
}

// Typed is what was typed so far behind an address.
func (s *Service) Typed(ctx context.Context, token string) (Typed, error) {
	t := Typed{StandIns: !s.Carried}
	b, err := s.begun(ctx, token)
	if err != nil {
		return t, err
	}
	if err := json.Unmarshal([]byte(b.Typed), &t); err != nil {
		return t, fmt.Errorf("reading what was typed: %w", err)
	}
	return t, nil
}

func (s *Service) begun(ctx context.Context, token string) (store.Beginning, error) {
	b, err := s.Store.Beginning(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return b, ErrNotBegun
	}
	if err == nil && subtle.ConstantTimeCompare([]byte(token), []byte(b.Token)) != 1 {
		return b, ErrNotBegun
	}
	return b, err
}

// Keep keeps what was typed so far, however little fits yet.
func (s *Service) Keep(ctx context.Context, token string, t Typed) error {
	if _, err := s.begun(ctx, token); err != nil {
		return err
	}
	text, err := json.Marshal(t)
	if err != nil {
		return err
	}
	return s.Store.KeepTyped(ctx, string(text))
}

// Found makes the organisation behind an address and begins to work. It returns the
// first account, which has every right.
func (s *Service) Found(ctx context.Context, token string, t Typed, typed string) (int64, error) {
	if _, err := s.begun(ctx, token); err != nil {
		return 0, err
	}
	id, err := s.Make(ctx, t, typed)
	if err != nil {
		return 0, err
	}
	return id, s.Founded(ctx)
}

// usualHold is how long a message of a new organisation can be stopped.
const usualHold = 30 * time.Second

// Make makes the organisation.
func (s *Service) Make(ctx context.Context, t Typed, typed string) (int64, error) {
	basics, err := t.Checked()
	if err != nil {
		return 0, err
	}
	login, err := entry.Mailbox(strings.ToLower(entry.Clean(t.Login)))
	person := entry.Name(t.Person)
	if err != nil || person == "" {
		return 0, fmt.Errorf("%w: the first account needs a name, and a mail address to sign in with", ErrCannot)
	}
	if err := password.Check(typed, t.Person, t.Login, t.Name); err != nil {
		return 0, err
	}
	hash, err := s.Hash(ctx, typed)
	if err != nil {
		return 0, err
	}
	o := store.Organisation{
		Name: basics.Name, Language: basics.Language, TimeZone: basics.TimeZone, Region: basics.Region,
		Currency: basics.Currency, Hold: usualHold, MailName: basics.Name, MailFrom: login,
		ReturnDomain: domainOf(login), Languages: []string{basics.Language}, UpdatesWait: true, StandIns: t.StandIns,
	}
	id, err := s.Store.Found(ctx, o, store.Account{
		Login: login, Name: person, PasswordHash: hash, Active: true,
		Grant: access.Grant{Scope: roster.Scope{Whole: true}, Rights: access.Rights},
	})
	if errors.Is(err, store.ErrConflict) {
		return 0, ErrNotBegun
	}
	return id, err
}

func domainOf(mailbox string) string {
	_, domain, _ := strings.Cut(mailbox, "@")
	return domain
}
