package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"upperlantern/internal/core/intake"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// PutUnit adds a unit, or changes the one with the same identifier.
func (s *Store) PutUnit(ctx context.Context, u roster.Unit) (roster.UnitID, error) {
	err := s.change(ctx, func(q *query.Queries) error {
		parent := nullID(int64(u.Parent))
		if u.ID != 0 {
			return one(
				q.SetUnit(ctx, query.SetUnitParams{
					ID: int64(u.ID), Name: u.Name, ParentID: parent, Prefix: u.Prefix, Footer: u.Footer,
				}),
			)
		}
		id, err := q.AddUnit(ctx, query.AddUnitParams{Name: u.Name, ParentID: parent, Prefix: u.Prefix, Footer: u.Footer})
		u.ID = roster.UnitID(id)
		return err
	})
	return u.ID, err
}

// DropUnit deletes a unit that owns nothing.
func (s *Store) DropUnit(ctx context.Context, id roster.UnitID) error {
	return s.change(ctx, func(q *query.Queries) error { return one(q.DropUnit(ctx, int64(id))) })
}

// PutAttribute adds an attribute, or changes name and choices of the one with
// the same identifier.
func (s *Store) PutAttribute(ctx context.Context, a roster.Attribute) (roster.AttributeID, error) {
	if a.Choices == nil {
		a.Choices = []string{}
	}
	choices, err := json.Marshal(a.Choices)
	if err != nil {
		return 0, err
	}
	err = s.change(ctx, func(q *query.Queries) error {
		if a.ID != 0 {
			return one(q.SetAttribute(ctx, query.SetAttributeParams{ID: int64(a.ID), Name: a.Name, Choices: string(choices)}))
		}
		id, err := q.AddAttribute(ctx, query.AddAttributeParams{Name: a.Name, Kind: a.Kind, Choices: string(choices)})
		a.ID = roster.AttributeID(id)
		return err
	})
	return a.ID, err
}

// DropAttribute deletes an attribute with what everybody has for it.
func (s *Store) DropAttribute(ctx context.Context, id roster.AttributeID) error {
	return s.change(ctx, func(q *query.Queries) error {
		if err := q.ForgetValues(ctx, fmt.Sprintf("$.\"%d\"", id)); err != nil {
			return err
		}
		return one(q.DropAttribute(ctx, int64(id)))
	})
}

// KeptFilter is a stack of filters with a name.
type KeptFilter struct {
	ID    int64
	Owner int64 // the account that kept it; 0 for the program
	Name  string
	Rule  roster.Rule
}

// KeepFilter keeps a stack of filters for an account, over one with the same name.
func (s *Store) KeepFilter(ctx context.Context, account int64, name string, rule roster.Rule) (int64, error) {
	text, err := ruleForm.write(rule)
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.write(ctx, func(q *query.Queries) (err error) {
		id, err = q.KeepFilter(ctx, query.KeepFilterParams{AccountID: nullID(account), Name: name, Rule: text})
		return err
	})
	return id, err
}

// KeptFilters lists the stacks of filters by name.
func (s *Store) KeptFilters(ctx context.Context) ([]KeptFilter, error) {
	rows, err := s.read().KeptFilters(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]KeptFilter, len(rows))
	for i, row := range rows {
		list[i] = KeptFilter{ID: row.ID, Owner: row.AccountID.Int64, Name: row.Name}
		if err := ruleForm.read(row.Rule, &list[i].Rule); err != nil {
			return nil, fmt.Errorf("reading %s: %w", row.Name, err)
		}
	}
	return list, nil
}

// DropFilter forgets a stack of filters.
func (s *Store) DropFilter(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error { return one(q.DropFilter(ctx, id)) })
}

// Mapping is how files with certain headings are understood, by a name.
type Mapping struct {
	ID      int64
	Owner   int64 // the account that kept it; 0 for the program
	Name    string
	Columns map[string]intake.Column // by heading
}

// KeepMapping keeps a mapping, over one with the same name.
func (s *Store) KeepMapping(ctx context.Context, m Mapping) error {
	columns, err := json.Marshal(m.Columns)
	if err != nil {
		return err
	}
	return s.write(ctx, func(q *query.Queries) error {
		return q.AddMapping(ctx, query.AddMappingParams{AccountID: nullID(m.Owner), Name: m.Name, Columns: string(columns)})
	})
}

// Mappings lists the mappings by name.
func (s *Store) Mappings(ctx context.Context) ([]Mapping, error) {
	rows, err := s.read().Mappings(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]Mapping, len(rows))
	for i, row := range rows {
		list[i] = Mapping{ID: row.ID, Owner: row.AccountID.Int64, Name: row.Name}
		if err := json.Unmarshal([]byte(row.Columns), &list[i].Columns); err != nil {
			return nil, fmt.Errorf("reading %s: %w", row.Name, err)
		}
	}
	return list, nil
}

// DropMapping forgets a mapping.
func (s *Store) DropMapping(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error { return one(q.DropMapping(ctx, id)) })
}

// SetApart says that two people who look like one are two.
func (s *Store) SetApart(ctx context.Context, a, b roster.PersonID) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.AddNotTwins(ctx, query.AddNotTwinsParams{FirstID: int64(min(a, b)), SecondID: int64(max(a, b))})
	})
}

// Apart returns the pairs that are two, the smaller identifier first.
func (s *Store) Apart(ctx context.Context) (map[[2]roster.PersonID]bool, error) {
	rows, err := s.read().NotTwins(ctx)
	apart := make(map[[2]roster.PersonID]bool, len(rows))
	for _, row := range rows {
		apart[[2]roster.PersonID{roster.PersonID(row.FirstID), roster.PersonID(row.SecondID)}] = true
	}
	return apart, err
}

// UpdateState is what became of a correction that somebody made themselves.
type UpdateState string

const (
	UpdateWaiting  UpdateState = "waiting"
	UpdateAccepted UpdateState = "accepted"
	UpdateDeclined UpdateState = "declined"
)

// Update is what somebody corrected about themselves.
type Update struct {
	ID     int64
	Person roster.PersonID
	After  roster.Sheet
	At     time.Time
	State  UpdateState
}

// AddUpdate keeps a correction, in place of an earlier one that still waits.
func (s *Store) AddUpdate(ctx context.Context, u Update) (int64, error) {
	after, err := sheetForm.write(u.After)
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.write(ctx, func(q *query.Queries) error {
		if err := q.ReplaceUpdates(ctx, int64(u.Person)); err != nil {
			return err
		}
		id, err = q.AddUpdate(ctx, query.AddUpdateParams{
			PersonID: int64(u.Person), After: after, MadeAt: millis(u.At), State: string(u.State),
		})
		return err
	})
	return id, err
}

// WaitingUpdates lists the corrections that wait for a yes, the oldest first.
func (s *Store) WaitingUpdates(ctx context.Context) ([]Update, error) {
	rows, err := s.read().WaitingUpdates(ctx)
	if err != nil {
		return nil, err
	}
	list := make([]Update, len(rows))
	for i, row := range rows {
		if list[i], err = update(row); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// Update returns one correction.
func (s *Store) Update(ctx context.Context, id int64) (Update, error) {
	row, err := s.read().UpdateByID(ctx, id)
	if err != nil {
		return Update{}, found(err)
	}
	return update(row)
}

func update(row query.Update) (Update, error) {
	u := Update{ID: row.ID, Person: roster.PersonID(row.PersonID), At: at(row.MadeAt), State: UpdateState(row.State)}
	if err := sheetForm.read(row.After, &u.After); err != nil {
		return u, fmt.Errorf("reading a correction: %w", err)
	}
	return u, nil
}

// EndUpdate says what became of a correction; one that has ended is ErrConflict.
func (s *Store) EndUpdate(ctx context.Context, id int64, state UpdateState) error {
	return s.write(ctx, func(q *query.Queries) error {
		n, err := q.SetUpdate(ctx, query.SetUpdateParams{ID: id, State: string(state)})
		if err == nil && n == 0 {
			return ErrConflict
		}
		return err
	})
}
