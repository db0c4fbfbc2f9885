package store

import (
	"context"
	"time"

	"upperlantern/internal/store/query"
)

// Beginning is the set-up of an organisation that has begun.
type Beginning struct {
	Token string // of the one-time address
	Typed string // JSON, what was typed so far
}

// Beginning is the set-up that has begun; ErrNotFound when none has.
func (s *Store) Beginning(ctx context.Context) (Beginning, error) {
	row, err := s.read().Beginning(ctx)
	return Beginning{Token: row.Token, Typed: row.Typed}, found(err)
}

// Begin begins the set-up of an organisation behind a token.
func (s *Store) Begin(ctx context.Context, token string, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.Begin(ctx, query.BeginParams{Token: token, MadeAt: millis(now)})
	})
}

// KeepTyped keeps what was typed so far (JSON).
func (s *Store) KeepTyped(ctx context.Context, typed string) error {
	return s.write(ctx, func(q *query.Queries) error { return one(q.KeepTyped(ctx, typed)) })
}

// Found makes an organisation with its first account, all or nothing, and ends its
// set-up. Where there is one already it is ErrConflict.
func (s *Store) Found(ctx context.Context, o Organisation, first Account) (id int64, err error) {
	units, rights, err := grantTexts(first.Grant)
	if err != nil {
		return 0, err
	}
	err = s.write(ctx, func(q *query.Queries) error {
		if _, err := q.Organisation(ctx); err == nil {
			return ErrConflict
		}
		if err := putOrganisation(ctx, q, o); err != nil {
			return err
		}
		if id, err = q.PutAccount(ctx, query.PutAccountParams{
			Login: first.Login, Name: first.Name, Duty: first.Duty, PasswordHash: first.PasswordHash, Active: true,
			Whole: first.Scope.Whole, Units: units, Rights: rights,
		}); err != nil {
			return err
		}
		return q.EndBeginning(ctx)
	})
	return id, err
}
