package store

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
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
	ReturnDomain string        // mail to it comes back to us: reports, later replies
	NumberFrom   string        // E.164, which texts and calls show
	Roles        []roster.Role // its own, besides the built-in ones
	Languages    []string      // offered first, BCP 47
	UpdatesWait  bool          // what people correct themselves waits for a yes
	Sending      plan.Sending
	Secret       string // signs personal links
	PushKeys     PushKeys
	StandIns     bool           // carry what is sent, when the command line names no carriers
	FactorFor    []access.Right // that an account holds only with a second factor
	Demo         bool
}

// PushKeys are how push services know us (RFC 8292), base64url. Devices are
// connected to the public one: with another, all would have to be asked again.
type PushKeys struct {
	Private string `json:"private"`
	Public  string `json:"public"`
}

// AllRoles are the built-in roles and the organisation's own.
func (o Organisation) AllRoles() []roster.Role { return slices.Concat(roster.Roles, o.Roles) }

// Fixed is what the organisation brings to what a sender sends.
func (o Organisation) Fixed(sender access.Principal) plan.Fixed {
	f := plan.Fixed{
		Organisation: o.Name, Sender: sender.Name, Reach: sender.Scope, NoEmergency: !sender.May(access.WriteEmergencies),
		Language: o.Language, TimeZone: o.TimeZone, Region: o.Region, Currency: o.Currency, Rates: o.Rates, Steps: o.Steps,
		Sending: o.Sending,
		Mailbox: o.MailFrom, Identity: roster.Identity{Name: o.MailName, Number: o.NumberFrom, Caller: o.NumberFrom},
	}
	if strings.Contains(sender.Login, "@") {
		f.Own = sender.Login
	}
	return f
}

// fixedVersion is the form of the JSON of what was fixed when a message was sent.
const fixedVersion = 1

func keepSending(ctx context.Context, q *query.Queries, id int64, s plan.Settings) error {
	text, err := json.Marshal(s.Fixed)
	if err != nil {
		return err
	}
	return q.PutSending(ctx, query.PutSendingParams{MessageID: id, Version: fixedVersion, Settings: string(text)})
}

// Sending is what was fixed when a message was sent. Of a message that an earlier
// version of the program sent nothing is known: ErrNotFound.
func (s *Store) Sending(ctx context.Context, id int64) (plan.Fixed, error) {
	row, err := s.read().Sending(ctx, id)
	if err != nil {
		return plan.Fixed{}, found(err)
	}
	f, err := fixedOf(row)
	if err != nil {
		return f, fmt.Errorf("reading what message %d was sent with: %w", id, err)
	}
	return f, nil
}

func fixedOf(row query.SendingRow) (f plan.Fixed, err error) {
	return f, json.Unmarshal([]byte(row.Settings), &f)
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
		ReturnDomain: row.ReturnDomain, NumberFrom: row.NumberFrom, UpdatesWait: row.UpdatesWait, Secret: row.Secret,
		StandIns: row.StandIns, Demo: row.Demo,
	}
	for _, setting := range []struct {
		text string
		into any
	}{
		{row.Rates, &o.Rates}, {row.Steps, &o.Steps}, {row.Roles, &o.Roles},
		{row.Languages, &o.Languages}, {row.Sending, &o.Sending}, {row.PushKeys, &o.PushKeys}, {row.FactorFor, &o.FactorFor},
	} {
		if err := settingsForm.read(setting.text, setting.into); err != nil {
			return o, err
		}
	}
	return o, nil
}

// PutOrganisation keeps the settings.
func (s *Store) PutOrganisation(ctx context.Context, o Organisation) error {
	return s.change(ctx, func(q *query.Queries) error { return putOrganisation(ctx, q, o) })
}

// ChangeOrganisation keeps changed settings, and what was changed by an account in
// words, for the list of changes.
func (s *Store) ChangeOrganisation(
	ctx context.Context, account int64, o Organisation, said string, now time.Time,
) error {
	return s.change(ctx, func(q *query.Queries) error {
		if err := putOrganisation(ctx, q, o); err != nil {
			return err
		}
		return sayChange(ctx, q, account, said, now)
	})
}

// SayChange keeps in words what an account changed of the settings.
func (s *Store) SayChange(ctx context.Context, account int64, said string, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error { return sayChange(ctx, q, account, said, now) })
}

// sayChange keeps in words what an account changed of the settings.
func sayChange(ctx context.Context, q *query.Queries, account int64, said string, now time.Time) error {
	_, err := q.AddEdit(ctx, query.AddEditParams{
		AccountID: nullID(account), Kind: string(roster.Set), Said: said, MadeAt: millis(now), Groups: "[]",
	})
	return err
}

func putOrganisation(ctx context.Context, q *query.Queries, o Organisation) error {
	if o.Roles == nil {
		o.Roles = []roster.Role{}
	}
	if o.Languages == nil {
		o.Languages = []string{}
	}
	if o.FactorFor == nil {
		o.FactorFor = []access.Right{}
	}
	var rates, steps, roles, languages, sending, pushKeys, factorFor string
	for _, setting := range []struct {
		from any
		into *string
	}{
		{o.Rates, &rates}, {o.Steps, &steps}, {o.Roles, &roles},
		{o.Languages, &languages}, {o.Sending, &sending}, {o.PushKeys, &pushKeys}, {o.FactorFor, &factorFor},
	} {
		var err error
		if *setting.into, err = settingsForm.write(setting.from); err != nil {
			return err
		}
	}
	return q.PutOrganisation(ctx, query.PutOrganisationParams{
		Name: o.Name, Language: o.Language, TimeZone: o.TimeZone, Region: o.Region, Currency: o.Currency,
		HoldSeconds: int64(o.Hold / time.Second), Rates: rates, Steps: steps, MailName: o.MailName,
		MailFrom: o.MailFrom, ReturnDomain: o.ReturnDomain, NumberFrom: o.NumberFrom, Roles: roles,
		Languages:   languages,
		UpdatesWait: o.UpdatesWait, Sending: sending, Secret: o.Secret, PushKeys: pushKeys, Demo: o.Demo,
		StandIns: o.StandIns, FactorFor: factorFor,
	})
}
