package editing

import (
	"context"
	"errors"
	"fmt"
	"net/mail"
	"reflect"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/office"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// SaveUnit adds a unit, or changes the one with the same identifier. An account
// that does not reach the whole organisation adds below its own units.
func (g *Editor) SaveUnit(ctx context.Context, by access.Principal, u roster.Unit) (roster.UnitID, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return 0, err
	}
	if u.ID != 0 && d.Roster.UnitPath(u.ID) == "" {
		return 0, store.ErrNotFound
	}
	if u.Parent, err = g.above(ctx, by, u); err != nil {
		return 0, err
	}
	if err := d.Unit(&u, by.Scope); err != nil {
		return 0, fmt.Errorf("%w: %w", ErrCannot, err)
	}
	id, err := g.Store.PutUnit(ctx, u)
	g.Changed()
	return id, err
}

// above is the unit in which a unit will be. Where an account's reach begins, the
// unit stays where it is: the account does not see what is around it.
func (g *Editor) above(ctx context.Context, by access.Principal, u roster.Unit) (roster.UnitID, error) {
	if !by.Scope.Begins(u.ID) {
		return u.Parent, nil
	}
	whole, err := g.Store.Roster(ctx)
	if err != nil {
		return 0, err
	}
	at := slices.IndexFunc(whole.Units, func(o roster.Unit) bool { return o.ID == u.ID })
	if at < 0 {
		return 0, store.ErrNotFound
	}
	return whole.Units[at].Parent, nil
}

// DropUnit deletes a unit that owns nothing any more.
func (g *Editor) DropUnit(ctx context.Context, by access.Principal, id roster.UnitID) error {
	d, err := g.View(ctx, by)
	if err != nil {
		return err
	}
	if d.Roster.UnitPath(id) == "" {
		return store.ErrNotFound
	}
	accounts, err := g.Store.Accounts(ctx)
	if err != nil {
		return err
	}
	for _, a := range accounts {
		if slices.Contains(a.Scope.Units, id) {
			return fmt.Errorf("%w: the account of %s reaches “%s”; change it first", ErrCannot, a.Name, d.Roster.UnitPath(id))
		}
	}
	err = g.Store.DropUnit(ctx, id)
	if errors.Is(err, store.ErrInUse) {
		return fmt.Errorf(
			"%w: people, groups, files or other units still belong to “%s”; move them first", ErrCannot, d.Roster.UnitPath(id),
		)
	}
	g.Changed()
	return err
}

// SaveAttribute adds an attribute, or changes name and choices of the one with
// the same identifier; its kind stays.
func (g *Editor) SaveAttribute(ctx context.Context, a roster.Attribute) (roster.AttributeID, error) {
	r, err := g.Store.Roster(ctx)
	if err != nil {
		return 0, err
	}
	a.Name = entry.Name(a.Name)
	var choices []string
	for _, c := range a.Choices {
		if c = entry.Name(c); c != "" && !slices.Contains(choices, c) {
			choices = append(choices, c)
		}
	}
	a.Choices = choices
	if before, known := r.Attribute(a.ID); known {
		a.Kind = before.Kind
	} else if a.ID != 0 {
		return 0, store.ErrNotFound
	}
	switch {
	case a.Name == "" || len([]rune(a.Name)) > entry.LongestName:
		return 0, fmt.Errorf("%w: an attribute needs a name of at most %d characters", ErrCannot, entry.LongestName)
	case !slices.Contains(roster.AttributeKinds, a.Kind):
		return 0, fmt.Errorf("%w: %q is no kind of attribute", ErrCannot, a.Kind)
	case a.Kind == roster.ChoiceAttribute && len(a.Choices) == 0:
		return 0, fmt.Errorf("%w: a choice needs something to choose from", ErrCannot)
	case a.Kind != roster.ChoiceAttribute:
		a.Choices = nil
	}
	for i := range r.Len() {
		if v := r.At(i).Value(a.ID); a.Kind == roster.ChoiceAttribute && v != "" && !slices.Contains(a.Choices, v) {
			return 0, fmt.Errorf("%w: people still have “%s” for %s; change them first", ErrCannot, v, a.Name)
		}
	}
	id, err := g.Store.PutAttribute(ctx, a)
	if errors.Is(err, store.ErrTaken) {
		return 0, fmt.Errorf("%w: there is an attribute “%s” already", ErrCannot, a.Name)
	}
	g.Changed()
	return id, err
}

// DropAttribute deletes an attribute that no rule looks at.
func (g *Editor) DropAttribute(ctx context.Context, id roster.AttributeID) error {
	r, err := g.Store.Roster(ctx)
	if err != nil {
		return err
	}
	looks := func(c roster.Condition) bool { return c.On == roster.OnAttribute && roster.AttributeID(c.ID) == id }
	for _, group := range r.Groups() {
		if slices.ContainsFunc(group.Rule, looks) {
			return fmt.Errorf("%w: the rule of the group “%s” looks at it; change the rule first", ErrCannot, group.Name)
		}
	}
	err = g.Store.DropAttribute(ctx, id)
	g.Changed()
	return err
}

// Settings are what an organisation is set to, as far as the roster goes.
type Settings struct {
	Roles       []roster.Role `json:"roles" maxItems:"100" doc:"Its own, besides the built-in ones"`
	Languages   []string      `json:"languages" maxItems:"100" doc:"Offered first, BCP 47"`
	UpdatesWait bool          `json:"updatesWait" doc:"What people correct themselves waits for a yes"`
}

// SaveSettings keeps an organisation's roles, languages and habits.
func (g *Editor) SaveSettings(ctx context.Context, by access.Principal, said Settings) error {
	o, err := g.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	before := o
	r, err := g.Store.Roster(ctx)
	if err != nil {
		return err
	}
	o.UpdatesWait, o.Roles, o.Languages = said.UpdatesWait, nil, nil
	for _, role := range said.Roles {
		role = roster.Role(strings.ToLower(entry.Name(string(role))))
		if role == "" || slices.Contains(o.AllRoles(), role) {
			continue
		}
		if len([]rune(string(role))) > entry.LongestName || strings.ContainsAny(string(role), ";,|") {
			return fmt.Errorf(
				"%w: “%s” cannot be a role: it is too long, or holds what separates roles in files", ErrCannot, role,
			)
		}
		o.Roles = append(o.Roles, role)
	}
	for i := range r.Len() {
		for _, role := range r.At(i).Roles {
			if !slices.Contains(o.AllRoles(), role) {
				return fmt.Errorf("%w: people still have the role %s; take it away from them first", ErrCannot, role)
			}
		}
	}
	for _, typed := range said.Languages {
		tag, ok := entry.Language(entry.Clean(typed))
		if !ok {
			return fmt.Errorf("%w: %q is no language that is known", ErrCannot, typed)
		}
		if !slices.Contains(o.Languages, tag) {
			o.Languages = append(o.Languages, tag)
		}
	}
	return g.keep(ctx, by, before, o, "roles, languages and habits changed")
}

// keep keeps an organisation that was changed, and says in words what was.
func (g *Editor) keep(ctx context.Context, by access.Principal, before, after store.Organisation, said string) error {
	if reflect.DeepEqual(before, after) {
		return nil
	}
	err := g.Store.ChangeOrganisation(ctx, by.ID, after, "settings: "+said, g.Now())
	g.Changed()
	return err
}

// ProfileOf is what an organisation is and how it appears.
func ProfileOf(o store.Organisation) office.Profile {
	return office.Profile{
		Basics: office.Basics{
			Name: o.Name, Language: o.Language, Region: o.Region, TimeZone: o.TimeZone, Currency: o.Currency,
		},
		MailName: o.MailName, MailFrom: o.MailFrom, ReturnDomain: o.ReturnDomain, NumberFrom: o.NumberFrom,
		TextRates: office.Prices(o.Rates.TextPart, o.Currency), CallRates: office.Prices(o.Rates.VoiceMinute, o.Currency),
	}
}

// SaveOffice keeps what an organisation is and how it appears.
func (g *Editor) SaveOffice(ctx context.Context, by access.Principal, said office.Profile) error {
	before, err := g.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	to, rates, err := said.Checked()
	if err != nil {
		return err
	}
	after := before
	after.Name, after.Language, after.Region, after.TimeZone = to.Name, to.Language, to.Region, to.TimeZone
	after.Currency, after.Rates, after.MailName, after.MailFrom = to.Currency, rates, to.MailName, to.MailFrom
	after.ReturnDomain, after.NumberFrom = to.ReturnDomain, to.NumberFrom
	changes := ProfileOf(before).Changes(to)
	if len(changes) == 0 {
		return nil
	}
	return g.keep(ctx, by, before, after, strings.Join(changes, "; "))
}

// SaveAccount adds an account, or changes the one with the same identifier. The
// hash is of a new password, or "" to keep the old one. Nobody gives more than
// they have, changes an account that reaches further than theirs, or takes the
// right to change settings, or their activity, from themselves.
func (g *Editor) SaveAccount(ctx context.Context, by access.Principal, a store.Account) (int64, error) {
	r, err := g.Store.Roster(ctx)
	if err != nil {
		return 0, err
	}
	a.Login, a.Name, a.Duty = strings.ToLower(entry.Clean(a.Login)), entry.Name(a.Name), entry.Name(a.Duty)
	if _, err := mail.ParseAddress(a.Login); err != nil || a.Name == "" {
		return 0, fmt.Errorf("%w: an account needs a name, and a mail address to sign in with", ErrCannot)
	}
	if err := by.CheckGift(a.Grant, r.Units); err != nil {
		return 0, fmt.Errorf("%w: %w", ErrCannot, err)
	}
	accounts, err := g.Store.Accounts(ctx)
	if err != nil {
		return 0, err
	}
	at := slices.IndexFunc(accounts, func(o store.Account) bool { return o.ID == a.ID })
	switch {
	case slices.ContainsFunc(accounts, func(o store.Account) bool {
		return o.ID != a.ID && strings.EqualFold(o.Login, a.Login)
	}):
		return 0, fmt.Errorf("%w: there is an account %s already", ErrCannot, a.Login)
	case a.ID == 0:
		return g.Store.PutAccount(ctx, a)
	case at < 0 || !by.Reaches(accounts[at].Grant, r.Units):
		return 0, store.ErrNotFound
	}
	if err := by.CheckChange(accounts[at].Holder(), a.Holder(), holders(accounts)); err != nil {
		return 0, fmt.Errorf("%w: %w", ErrCannot, err)
	}
	if a.PasswordHash == "" {
		a.PasswordHash = accounts[at].PasswordHash
	}
	return a.ID, g.Store.SetAccount(ctx, a)
}

// SaveFactorFor says which rights need a second factor. Only who has one may say so:
// everybody else could lock themselves out.
func (g *Editor) SaveFactorFor(ctx context.Context, by access.Principal, rights []access.Right) error {
	before, err := g.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	after := before
	after.FactorFor = []access.Right{}
	var words []string
	for _, r := range access.Rights {
		if slices.Contains(rights, r) {
			after.FactorFor = append(after.FactorFor, r)
			words = append(words, r.Words())
		}
	}
	account, err := g.Store.Account(ctx, by.ID)
	if err != nil {
		return err
	}
	if len(words) > 0 && len(account.Factor) == 0 {
		return fmt.Errorf("%w: set your own second factor up first, in Your account", ErrCannot)
	}
	said := "no right needs a second factor"
	if len(words) > 0 {
		said = "a second factor is needed to " + strings.Join(words, ", ")
	}
	return g.keep(ctx, by, before, after, said)
}

// DropFactor takes the second factor of an account away whose device is lost, and keeps
// in words who did.
func (g *Editor) DropFactor(ctx context.Context, by access.Principal, a store.Account) error {
	if len(a.Factor) == 0 {
		return fmt.Errorf("%w: %s has no second factor", ErrCannot, a.Name)
	}
	if err := g.Store.SetFactor(ctx, a.ID, nil, 0, nil); err != nil {
		return err
	}
	return g.Store.SayChange(ctx, by.ID, "settings: the second factor of "+a.Name+" taken away", g.Now())
}

// Admit gives somebody a password from the command line: an account that is there
// gets the new password and keeps everything else, a new one gets every right
// over the whole organisation. It returns what was done, in words.
func (g *Editor) Admit(ctx context.Context, a store.Account) (string, error) {
	a.Login, a.Name, a.Duty = strings.ToLower(entry.Clean(a.Login)), entry.Name(a.Name), entry.Name(a.Duty)
	accounts, err := g.Store.Accounts(ctx)
	if err != nil {
		return "", err
	}
	same := func(o store.Account) bool { return strings.EqualFold(o.Login, a.Login) }
	if at := slices.IndexFunc(accounts, same); at >= 0 {
		if !accounts[at].Active {
			return "", fmt.Errorf(
				"%w: the account of %s has ended; let it begin again in Settings, Accounts", ErrCannot, accounts[at].Name,
			)
		}
		return fmt.Sprintf(
			"%s has a new password; everything else of the account stays as it was.", accounts[at].Name,
		), g.Store.SetPassword(ctx, accounts[at].ID, a.PasswordHash)
	}
	a.Active, a.Grant = true, access.Grant{Scope: roster.Scope{Whole: true}, Rights: access.Rights}
	if _, err := g.SaveAccount(ctx, access.Program, a); err != nil {
		return "", err
	}
	return fmt.Sprintf("%s can sign in as %s, with every right.", a.Name, a.Login), nil
}

func holders(accounts []store.Account) []access.Holder {
	list := make([]access.Holder, len(accounts))
	for i, a := range accounts {
		list[i] = a.Holder()
	}
	return list
}

// KeepFilter keeps a stack of filters under a name, over the account's own.
func (g *Editor) KeepFilter(ctx context.Context, by access.Principal, name string, rule roster.Rule) (int64, error) {
	name = entry.Name(name)
	kept, err := g.Store.KeptFilters(ctx)
	if err != nil {
		return 0, err
	}
	for _, k := range kept {
		if strings.EqualFold(k.Name, name) && !by.MayDrop(k.Owner) {
			return 0, fmt.Errorf("%w: somebody else keeps filters under the name “%s”; choose another", ErrCannot, k.Name)
		}
	}
	return g.Store.KeepFilter(ctx, by.ID, name, rule)
}

// DropFilter forgets a stack of filters.
func (g *Editor) DropFilter(ctx context.Context, by access.Principal, id int64) error {
	kept, err := g.Store.KeptFilters(ctx)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(kept, func(k store.KeptFilter) bool { return k.ID == id })
	if at >= 0 && !by.MayDrop(kept[at].Owner) {
		return fmt.Errorf(
			"%w: “%s” was kept by somebody else; they can delete it, or whoever changes the settings", ErrCannot, kept[at].Name,
		)
	}
	return g.Store.DropFilter(ctx, id)
}

// DropMapping forgets how files with certain headings are understood.
func (g *Editor) DropMapping(ctx context.Context, by access.Principal, id int64) error {
	kept, err := g.Store.Mappings(ctx)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(kept, func(k store.Mapping) bool { return k.ID == id })
	if at >= 0 && !by.MayDrop(kept[at].Owner) {
		return fmt.Errorf(
			"%w: “%s” was kept by somebody else; they can delete it, or whoever changes the settings", ErrCannot, kept[at].Name,
		)
	}
	return g.Store.DropMapping(ctx, id)
}

// SendingHabits are how messages are sent: the hold, the default steps by urgency, and
// the rules of sending.
type SendingHabits struct {
	HoldSeconds int                                 `json:"holdSeconds" minimum:"0" maximum:"600"`
	Steps       map[roster.Urgency]precedence.Steps `json:"steps" doc:"By urgency; one that is absent has the built-in steps"`
	Rules       plan.Sending                        `json:"rules"`
}

const longestHold = 10 * time.Minute

// SaveSending keeps how messages are sent.
func (g *Editor) SaveSending(ctx context.Context, by access.Principal, said SendingHabits) error {
	o, err := g.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	before := o
	r, err := g.Store.Roster(ctx)
	if err != nil {
		return err
	}
	hold := time.Duration(said.HoldSeconds) * time.Second
	if hold < 0 || hold > longestHold {
		return fmt.Errorf("%w: the hold is %v, and can be 10 minutes at most", ErrCannot, hold)
	}
	for urgency, steps := range said.Steps {
		if !urgency.Valid() {
			return fmt.Errorf("%w: %q is no urgency", ErrCannot, urgency)
		}
		if err := steps.Validate(); err != nil {
			return fmt.Errorf("%w: steps of %s messages: %w", ErrCannot, urgency, err)
		}
	}
	if err := said.Rules.Validate(); err != nil {
		return fmt.Errorf("%w: %w", ErrCannot, err)
	}
	for _, id := range said.Rules.Testers {
		if r.Person(id) == nil {
			return fmt.Errorf("%w: one of the testers is no longer on the roster", ErrCannot)
		}
	}
	if _, ok := r.Attribute(said.Rules.Postal); !ok && said.Rules.Postal != 0 {
		return fmt.Errorf("%w: the attribute for postal addresses no longer exists", ErrCannot)
	}
	if _, ok := r.Attribute(said.Rules.Reads); !ok && said.Rules.Reads != 0 {
		return fmt.Errorf("%w: the attribute for languages that somebody reads no longer exists", ErrCannot)
	}
	for _, b := range said.Rules.Budgets {
		if b.Unit != 0 && r.UnitPath(b.Unit) == "" {
			return fmt.Errorf("%w: a budget is for a unit that no longer exists", ErrCannot)
		}
	}
	o.Hold, o.Steps, o.Sending = hold, said.Steps, said.Rules
	return g.keep(ctx, by, before, o, "how messages are sent changed")
}
