package store

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Account is somebody who signs in.
type Account struct {
	ID           int64
	Login        string
	Name         string
	Duty         string
	PasswordHash string
	Active       bool
	Epoch        int64  // grows with every new password; sessions of an earlier one have ended
	Factor       []byte // the sealed secret of its second factor; empty without one
	FactorStep   int64  // of the last code that counted
	SlowedAt     time.Time
	SlowedFrom   string // the network whose wrong tries were slowed down at that time
	Site         string // where it last signed in
	access.Grant
}

// Within is what the account holds in its sessions: without a second factor nothing of
// the rights that need one.
func (a Account) Within(needing []access.Right) access.Grant {
	g := a.Grant
	if len(a.Factor) > 0 {
		return g
	}
	g.Rights = slices.DeleteFunc(slices.Clone(g.Rights), func(r access.Right) bool { return slices.Contains(needing, r) })
	return g
}

// Principal is the account as one on whose behalf something is asked.
func (a Account) Principal(door access.Door) access.Principal {
	return access.Principal{ID: a.ID, Login: a.Login, Name: a.Name, Door: door, Grant: a.Grant}
}

// Holder is the account among the others.
func (a Account) Holder() access.Holder {
	return access.Holder{ID: a.ID, Name: a.Name, Active: a.Active, Grant: a.Grant}
}

// PutAccount adds an account, or replaces the one with the same login.
func (s *Store) PutAccount(ctx context.Context, a Account) (int64, error) {
	units, rights, err := grantTexts(a.Grant)
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.write(ctx, func(q *query.Queries) (err error) {
		id, err = q.PutAccount(ctx, query.PutAccountParams{
			Login: a.Login, Name: a.Name, Duty: a.Duty, PasswordHash: a.PasswordHash, Active: a.Active,
			Whole: a.Scope.Whole, Units: units, Rights: rights,
		})
		return err
	})
	return id, err
}

// SetAccount changes an account. One that is not active any more has no
// sessions: they look it up and do not find it.
func (s *Store) SetAccount(ctx context.Context, a Account) error {
	units, rights, err := grantTexts(a.Grant)
	if err != nil {
		return err
	}
	return s.write(ctx, func(q *query.Queries) error {
		before, err := q.AnyAccount(ctx, a.ID)
		if err != nil {
			return found(err)
		}
		if before.PasswordHash != a.PasswordHash {
			if err := q.DropPasses(ctx, a.ID); err != nil {
				return err
			}
		}
		return one(q.SetAccount(ctx, query.SetAccountParams{
			ID: a.ID, Login: a.Login, Name: a.Name, Duty: a.Duty, PasswordHash: a.PasswordHash, Active: a.Active,
			Whole: a.Scope.Whole, Units: units, Rights: rights,
		}))
	})
}

func grantTexts(g access.Grant) (units, rights string, err error) {
	if g.Scope.Units == nil {
		g.Scope.Units = []roster.UnitID{}
	}
	if g.Rights == nil {
		g.Rights = []access.Right{}
	}
	u, err := json.Marshal(g.Scope.Units)
	if err != nil {
		return "", "", err
	}
	r, err := json.Marshal(g.Rights)
	return string(u), string(r), err
}

// AccountByLogin finds an active account.
func (s *Store) AccountByLogin(ctx context.Context, login string) (Account, error) {
	row, err := s.read().AccountByLogin(ctx, login)
	if err != nil {
		return Account{}, found(err)
	}
	return account(row)
}

// Account finds an active account.
func (s *Store) Account(ctx context.Context, id int64) (Account, error) {
	row, err := s.read().Account(ctx, id)
	if err != nil {
		return Account{}, found(err)
	}
	return account(row)
}

// AnyAccount finds an account, active or not.
func (s *Store) AnyAccount(ctx context.Context, id int64) (Account, error) {
	row, err := s.read().AnyAccount(ctx, id)
	if err != nil {
		return Account{}, found(err)
	}
	return account(row)
}

// SetPassword gives an account a new password, which ends its sessions and its links.
func (s *Store) SetPassword(ctx context.Context, id int64, hash string) error {
	return s.write(ctx, func(q *query.Queries) error {
		if err := q.DropPasses(ctx, id); err != nil {
			return err
		}
		return one(q.SetPassword(ctx, query.SetPasswordParams{ID: id, PasswordHash: hash}))
	})
}

// How long, and how many, networks are known from which an account signed in.
const (
	networkKnownFor = 90 * 24 * time.Hour
	mostNetworks    = 20
)

// KnowNetwork keeps that an account signed in from a network.
func (s *Store) KnowNetwork(ctx context.Context, account int64, network string, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		if err := q.KnowNetwork(ctx, query.KnowNetworkParams{
			AccountID: account, Network: network, SeenAt: millis(now),
		}); err != nil {
			return err
		}
		return q.ForgetNetworks(ctx, query.ForgetNetworksParams{
			AccountID: account, Before: millis(now.Add(-networkKnownFor)), Kept: mostNetworks,
		})
	})
}

// KnowsNetwork reports whether an account signed in from a network before.
func (s *Store) KnowsNetwork(ctx context.Context, account int64, network string, now time.Time) (bool, error) {
	n, err := s.read().KnowsNetwork(ctx, query.KnowsNetworkParams{
		AccountID: account, Network: network, SeenAt: millis(now.Add(-networkKnownFor)),
	})
	return n > 0, err
}

// Accounts lists all accounts, active or not.
func (s *Store) Accounts(ctx context.Context) ([]Account, error) {
	rows, err := s.read().Accounts(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]Account, len(rows))
	for i, row := range rows {
		if list[i], err = account(row); err != nil {
			return nil, err
		}
	}
	return list, nil
}

func account(row query.Account) (Account, error) {
	a := Account{
		ID: row.ID, Login: row.Login, Name: row.Name, Duty: row.Duty, PasswordHash: row.PasswordHash, Active: row.Active,
		Epoch: row.SessionEpoch, Factor: row.Factor, FactorStep: row.FactorStep, SlowedAt: at(row.SlowedAt),
		SlowedFrom: row.SlowedFrom, Site: row.Site,
	}
	a.Scope.Whole = row.Whole
	if err := json.Unmarshal([]byte(row.Units), &a.Scope.Units); err != nil {
		return a, fmt.Errorf("reading the units of %s: %w", a.Login, err)
	}
	if err := json.Unmarshal([]byte(row.Rights), &a.Rights); err != nil {
		return a, fmt.Errorf("reading the rights of %s: %w", a.Login, err)
	}
	return a, nil
}
