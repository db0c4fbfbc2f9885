package store

import (
	"context"
	"encoding/json"
	"fmt"

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
	access.Grant
}

// Program is the program itself, where nobody is signed in.
var Program = Account{Name: "the program", Grant: access.Grant{Scope: roster.Scope{Whole: true}, Rights: access.Rights}}

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
	a := Account{ID: row.ID, Login: row.Login, Name: row.Name, Duty: row.Duty, PasswordHash: row.PasswordHash, Active: row.Active}
	a.Scope.Whole = row.Whole
	if err := json.Unmarshal([]byte(row.Units), &a.Scope.Units); err != nil {
		return a, fmt.Errorf("reading the units of %s: %w", a.Login, err)
	}
	if err := json.Unmarshal([]byte(row.Rights), &a.Rights); err != nil {
		return a, fmt.Errorf("reading the rights of %s: %w", a.Login, err)
	}
	return a, nil
}
