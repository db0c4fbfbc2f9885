// Package passes gives accounts the links that set their passwords, and tells them by
// mail what they need to know.
package passes

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"upperlantern/internal/store"
)

// How long links count.
const (
	InvitedFor   = 7 * 24 * time.Hour
	forgottenFor = time.Hour
)

// Path is where the interface takes a link.
const Path = "/pass/"

// Store is where links are kept.
type Store interface {
	Organisation(context.Context) (store.Organisation, error)
	AccountByLogin(ctx context.Context, login string) (store.Account, error)
	AddPass(ctx context.Context, hash string, p store.Pass) error
	Pass(ctx context.Context, hash string, now time.Time) (store.Pass, error)
	UsePass(ctx context.Context, hash, password string, now time.Time) error
	Slowed(ctx context.Context, account int64, network string, now time.Time) (told bool, err error)
}

// Service gives links to accounts.
type Service struct {
	Store Store
	Site  string // where people reach the interface, if that is set
	// Mail hands an email over at once.
	Mail func(ctx context.Context, to, subject, body string) error
	Now  func() time.Time
	Log  *slog.Logger
	busy chan struct{}
}

// atOnce is how many emails are handed over behind answers that do not wait for them.
const atOnce = 4

// New makes a service.
func New(s Service) *Service {
	s.busy = make(chan struct{}, atOnce)
	return &s
}

func hash(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// Invite gives an account a link to its first password, and mails it. The link is
// returned also when the mail could not be handed over, so that it can be passed on.
func (s *Service) Invite(ctx context.Context, a store.Account, by, site string) (link string, mailed error, err error) {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return "", nil, err
	}
	if link, err = s.link(ctx, a.ID, true, InvitedFor, site); err != nil {
		return "", nil, err
	}
	body := fmt.Sprintf(
		"%s,\n\n%s invites you to write to people in the name of %s.\n\nChoose a password at\n%s\n\n"+
			"The link counts once, and for seven days. You sign in as %s.\n", a.Name, by, o.Name, link, a.Login,
	)
	return link, s.Mail(ctx, a.Login, "Your account at "+o.Name, body), nil
}

func (s *Service) link(
	ctx context.Context, account int64, invites bool, lasts time.Duration, site string,
) (string, error) {
	token := rand.Text()
	pass := store.Pass{Account: account, Invites: invites, EndsAt: s.Now().Add(lasts)}
	return site + Path + token, s.Store.AddPass(ctx, hash(token), pass)
}

// Forgotten mails a link to whoever signs in with a login, if there is somebody. It
// does not wait for that: how long it takes tells nothing.
func (s *Service) Forgotten(login string) {
	s.behind("a link to a new password", func(ctx context.Context) error {
		a, err := s.Store.AccountByLogin(ctx, login)
		if errors.Is(err, store.ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		site := cmp.Or(s.Site, a.Site) // never where a request of somebody else says
		if site == "" {
			return fmt.Errorf("%s never signed in, and no --site is named: where a link leads is not known", a.Login)
		}
		link, err := s.link(ctx, a.ID, false, forgottenFor, site)
		if err != nil {
			return err
		}
		return s.Mail(ctx, a.Login, "A new password", fmt.Sprintf(
			"%s,\n\nsomebody, perhaps you, asked for a new password.\n\nChoose one at\n%s\n\n"+
				"The link counts once, and for an hour. If it was not you, leave it: your password stays as it is.\n",
			a.Name, link,
		))
	})
}

// Slowed tells an account that wrong tries to sign in as it are slowed down, unless it
// was told within the last hour.
func (s *Service) Slowed(a store.Account, network string) {
	s.behind("a warning of wrong tries", func(ctx context.Context) error {
		told, err := s.Store.Slowed(ctx, a.ID, network, s.Now())
		if err != nil || !told {
			return err
		}
		return s.Mail(ctx, a.Login, "Wrong tries to sign in as you", fmt.Sprintf(
			"%s,\n\nsomebody at %s tried to sign in as you, and typed something wrong several times. "+
				"Further tries from there have to wait.\n\nIf it was you, there is nothing to do. "+
				"If it was not, nobody came in; a second factor keeps it so even if your password gets known.\n",
			a.Name, network,
		))
	})
}

// behind does something that nobody waits for, and leaves it when too much is done.
func (s *Service) behind(what string, do func(context.Context) error) {
	select {
	case s.busy <- struct{}{}:
	default:
		s.Log.Warn("too much at once, so that it was left", "what", what)
		return
	}
	go func() {
		defer func() { <-s.busy }()
		ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
		defer cancel()
		if err := do(ctx); err != nil {
			s.Log.Error("mailing an account", "what", what, "error", err)
		}
	}()
}

// Look finds the link of a token; otherwise it is store.ErrNotFound.
func (s *Service) Look(ctx context.Context, token string) (store.Pass, error) {
	return s.Store.Pass(ctx, hash(token), s.Now())
}

// Use gives the account of a link a new password, once.
func (s *Service) Use(ctx context.Context, token, passwordHash string) error {
	return s.Store.UsePass(ctx, hash(token), passwordHash, s.Now())
}
