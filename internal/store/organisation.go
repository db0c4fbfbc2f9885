package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// Organisation is what one installation is set to.
type Organisation struct {
	Name         string
	Language     string // in which messages are written, BCP 47
	TimeZone     string // IANA
	Region       string // ISO 3166, whose national number form is assumed
	Currency     string // ISO 4217
	Hold         time.Duration
	Rates        plan.Rates
	Steps        map[roster.Urgency]precedence.Steps
	MailName     string // who emails are from
	MailFrom     string
	ReturnDomain string // mail to it comes back to us: reports, later replies
	NumberFrom   string // E.164, which texts and calls show
	Demo         bool
}

// Settings are what the organisation brings to a plan made by a sender.
func (o Organisation) Settings(sender string) plan.Settings {
	return plan.Settings{
		Organisation: o.Name, Sender: sender, Language: o.Language, Currency: o.Currency, Rates: o.Rates, Steps: o.Steps,
	}
}

// Organisation returns the settings, or ErrNotFound before there are any.
func (s *Store) Organisation(ctx context.Context) (Organisation, error) {
	row, err := s.read().Organisation(ctx)
	if err != nil {
		return Organisation{}, found(err)
	}
	o := Organisation{
		Name: row.Name, Language: row.Language, TimeZone: row.TimeZone, Region: row.Region, Currency: row.Currency,
		Hold: time.Duration(row.HoldSeconds) * time.Second, MailName: row.MailName, MailFrom: row.MailFrom,
		ReturnDomain: row.ReturnDomain, NumberFrom: row.NumberFrom, Demo: row.Demo,
	}
	if err := json.Unmarshal([]byte(row.Rates), &o.Rates); err != nil {
		return o, fmt.Errorf("reading rates: %w", err)
	}
	if err := json.Unmarshal([]byte(row.Steps), &o.Steps); err != nil {
		return o, fmt.Errorf("reading steps: %w", err)
	}
	return o, nil
}

// PutOrganisation keeps the settings.
func (s *Store) PutOrganisation(ctx context.Context, o Organisation) error {
	rates, err := json.Marshal(o.Rates)
	if err != nil {
		return err
	}
	steps, err := json.Marshal(o.Steps)
	if err != nil {
		return err
	}
	return s.write(ctx, func(q *query.Queries) error {
		return q.PutOrganisation(ctx, query.PutOrganisationParams{
			Name: o.Name, Language: o.Language, TimeZone: o.TimeZone, Region: o.Region, Currency: o.Currency,
			HoldSeconds: int64(o.Hold / time.Second), Rates: string(rates), Steps: string(steps), MailName: o.MailName,
			MailFrom: o.MailFrom, ReturnDomain: o.ReturnDomain, NumberFrom: o.NumberFrom, Demo: o.Demo,
		})
	})
}

// Account is somebody who signs in.
type Account struct {
	ID           int64
	Login        string
	Name         string
	Duty         string
	PasswordHash string
}

// PutAccount adds an account, or replaces the one with the same login.
func (s *Store) PutAccount(ctx context.Context, a Account) (int64, error) {
	var id int64
	err := s.write(ctx, func(q *query.Queries) (err error) {
		id, err = q.PutAccount(ctx, query.PutAccountParams{Login: a.Login, Name: a.Name, Duty: a.Duty, PasswordHash: a.PasswordHash})
		return err
	})
	return id, err
}

// AccountByLogin finds an active account.
func (s *Store) AccountByLogin(ctx context.Context, login string) (Account, error) {
	row, err := s.read().AccountByLogin(ctx, login)
	return account(row), found(err)
}

// Account finds an active account.
func (s *Store) Account(ctx context.Context, id int64) (Account, error) {
	row, err := s.read().Account(ctx, id)
	return account(row), found(err)
}

// Accounts lists all accounts.
func (s *Store) Accounts(ctx context.Context) ([]Account, error) {
	rows, err := s.read().Accounts(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]Account, len(rows))
	for i, row := range rows {
		list[i] = account(row)
	}
	return list, nil
}

func account(row query.Account) Account {
	return Account{ID: row.ID, Login: row.Login, Name: row.Name, Duty: row.Duty, PasswordHash: row.PasswordHash}
}
