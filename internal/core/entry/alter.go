package entry

import (
	"fmt"
	"slices"

	"upperlantern/internal/core/roster"
)

// Alteration is one thing that is done to many people at once.
type Alteration struct {
	Do        string             `json:"do" enum:"join,leave,attribute,status,role,no-role,unit,language"`
	Group     roster.GroupID     `json:"group,omitempty"`
	Attribute roster.AttributeID `json:"attribute,omitempty"`
	Unit      roster.UnitID      `json:"unit,omitempty" doc:"Absent for the organisation as a whole"`
	Value     string             `json:"value,omitempty" maxLength:"1000" doc:"Of the attribute, or the status, role or language"`
	Until     roster.Date        `json:"until,omitempty" doc:"The last day away"`
}

// Alter works out what an alteration makes of people. Those for whom nothing
// changes, and guests, are not part of the edit. What cannot be done is refused
// as a whole, with the reason.
func (x Reader) Alter(people []roster.PersonID, a Alteration) (*roster.Edit, error) {
	e := &roster.Edit{Kind: roster.Changed}
	for _, id := range people {
		before := x.Roster.Sheet(id)
		if before == nil || x.Roster.Guest(id) {
			continue
		}
		after := before.Clone()
		said, err := x.alter(after, a)
		if err != nil {
			return nil, err
		}
		e.Said = said
		checked, remarks := x.Read(before, after)
		if refused := Refusals(remarks); len(refused) > 0 {
			return nil, fmt.Errorf("%s: %s %s", before.Name(), refused[0].Value, refused[0].Reason)
		}
		if len(x.Roster.Differ(before, checked, x.Roster)) == 0 {
			continue
		}
		e.People = append(e.People, roster.PersonEdit{Before: before, After: checked})
	}
	return e, nil
}

func (x Reader) alter(s *roster.Sheet, a Alteration) (said string, err error) {
	switch a.Do {
	case "join":
		s.Join(a.Group)
		return "added to " + x.Roster.GroupName(a.Group), nil
	case "leave":
		s.Leave(a.Group)
		return "taken out of " + x.Roster.GroupName(a.Group), nil
	case "attribute":
		at, ok := x.Roster.Attribute(a.Attribute)
		if !ok {
			return "", fmt.Errorf("the attribute no longer exists")
		}
		value, err := at.Read(Clean(a.Value))
		if err != nil {
			return "", err
		}
		s.SetValue(a.Attribute, value)
		if value == "" {
			return at.Name + " emptied", nil
		}
		return at.Name + " set to " + value, nil
	case "status":
		s.Status, s.AwayUntil = roster.Status(a.Value), a.Until
		if s.Status == roster.Away && a.Until != "" {
			return "marked away until " + string(a.Until), nil
		}
		return "marked " + a.Value, nil
	case "role":
		if !s.Has(roster.Role(a.Value)) {
			s.Roles = append(s.Roles, roster.Role(a.Value))
		}
		return "given the role " + a.Value, nil
	case "no-role":
		s.Roles = slices.DeleteFunc(s.Roles, func(r roster.Role) bool { return r == roster.Role(a.Value) })
		return "role " + a.Value + " taken away", nil
	case "unit":
		s.Unit = a.Unit
		return "moved to " + orWhole(x.Roster.UnitPath(a.Unit)), nil
	case "language":
		s.Language = a.Value
		return "language set to " + a.Value, nil
	}
	return "", fmt.Errorf("%q is nothing that can be done to people", a.Do)
}

func orWhole(unit string) string {
	if unit == "" {
		return "the whole organisation"
	}
	return unit
}
