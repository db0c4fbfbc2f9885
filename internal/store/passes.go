package store

import (
	"context"
	"errors"
	"time"

	"upperlantern/internal/store/query"
)

// Pass is a link that sets the password of an account, once.
type Pass struct {
	Account int64
	Invites bool // it is the first password
	EndsAt  time.Time
}

// AddPass keeps the hash of a link, and ends earlier ones of its kind.
func (s *Store) AddPass(ctx context.Context, hash string, p Pass) error {
	return s.write(ctx, func(q *query.Queries) error {
		earlier := query.DropPassesOfKindParams{AccountID: p.Account, Invites: p.Invites}
		if err := q.DropPassesOfKind(ctx, earlier); err != nil {
			return err
		}
		return q.AddPass(ctx, query.AddPassParams{
			Hash: hash, AccountID: p.Account, Invites: p.Invites, EndsAt: millis(p.EndsAt),
		})
	})
}

// Pass finds a link that counts at an instant; otherwise it is ErrNotFound.
func (s *Store) Pass(ctx context.Context, hash string, now time.Time) (Pass, error) {
	row, err := s.read().Pass(ctx, hash)
	if err != nil {
		return Pass{}, found(err)
	}
	if now.UnixMilli() >= row.EndsAt {
		return Pass{}, ErrNotFound
	}
	return Pass{Account: row.AccountID, Invites: row.Invites, EndsAt: at(row.EndsAt)}, nil
}

// InvitedUntil is when the invitation of an account ends; zero without one.
func (s *Store) InvitedUntil(ctx context.Context, account int64) (time.Time, error) {
	ends, err := s.read().PassOf(ctx, account)
	if err = found(err); errors.Is(err, ErrNotFound) {
		return time.Time{}, nil
	}
	return at(ends), err
}

// UsePass gives the account of a link a new password, once. A link that counts no more,
// or that somebody else uses at the same moment, is ErrNotFound.
func (s *Store) UsePass(ctx context.Context, hash, password string, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		row, err := q.Pass(ctx, hash)
		if err != nil {
			return found(err)
		}
		if now.UnixMilli() >= row.EndsAt {
			return ErrNotFound
		}
		if err := q.DropPasses(ctx, row.AccountID); err != nil {
			return err
		}
		return one(q.SetPassword(ctx, query.SetPasswordParams{ID: row.AccountID, PasswordHash: password}))
	})
}

// SweepPasses removes links that ended.
func (s *Store) SweepPasses(ctx context.Context, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error { return q.DropOldPasses(ctx, millis(now)) })
}

// SetFactor gives an account a second factor, whose step counted already, and recovery
// codes; with an empty secret it takes them away.
func (s *Store) SetFactor(ctx context.Context, account int64, sealed []byte, step int64, recovery []string) error {
	if sealed == nil {
		sealed = []byte{}
	}
	return s.write(ctx, func(q *query.Queries) error {
		if err := one(q.SetFactor(ctx, query.SetFactorParams{ID: account, Factor: sealed, FactorStep: step})); err != nil {
			return err
		}
		if err := q.DropRecoveryCodes(ctx, account); err != nil {
			return err
		}
		for _, hash := range recovery {
			if err := q.AddRecoveryCode(ctx, query.AddRecoveryCodeParams{AccountID: account, Hash: hash}); err != nil {
				return err
			}
		}
		return nil
	})
}

// StepFactor keeps the step of a code that counts. A code that counted meanwhile is
// ErrNotFound.
func (s *Store) StepFactor(ctx context.Context, account, step int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		return one(q.StepFactor(ctx, query.StepFactorParams{ID: account, Step: step}))
	})
}

// UseRecoveryCode uses a recovery code up; one that there is not is ErrNotFound.
func (s *Store) UseRecoveryCode(ctx context.Context, account int64, hash string) error {
	return s.write(ctx, func(q *query.Queries) error {
		return one(q.UseRecoveryCode(ctx, query.UseRecoveryCodeParams{AccountID: account, Hash: hash}))
	})
}

// RecoveryCodesLeft is how many recovery codes an account has.
func (s *Store) RecoveryCodesLeft(ctx context.Context, account int64) (int, error) {
	n, err := s.read().RecoveryCodesLeft(ctx, account)
	return int(n), err
}

// toldEvery is how often an account is told that wrong tries are slowed down.
const toldEvery = time.Hour

// Slowed keeps that wrong tries to sign in as an account are slowed down, and reports
// whether that is to be told: not when it was within the last hour.
func (s *Store) Slowed(ctx context.Context, account int64, network string, now time.Time) (told bool, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		n, err := q.Slowed(ctx, query.SlowedParams{
			ID: account, SlowedAt: millis(now), SlowedFrom: network, Before: millis(now.Add(-toldEvery)),
		})
		told = n > 0
		return err
	})
	return told, err
}

// SetSite keeps where an account signed in.
func (s *Store) SetSite(ctx context.Context, account int64, site string) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.SetSite(ctx, query.SetSiteParams{ID: account, Site: site})
	})
}
