package report

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
)

// MonthName is a month as it is read, by its key such as 2026-11.
func MonthName(key string) string {
	t, err := time.Parse("2006-01", key)
	if err != nil {
		return key
	}
	return t.Format("January 2006")
}

// Spent is what a unit spent in a month, or a part of it.
type Spent struct {
	Unit  roster.UnitID
	Month string // 2026-11
	Costs map[string]money.Amount
}

// Budgets is the table of what units with a budget spent, with all inside them, beside
// their budgets of now in a currency. Unit 0 is the organisation. Total is what all
// messages cost, each counted once.
func Budgets(
	list []Spent, total Figures, budgets map[roster.UnitID]money.Amount, currency string, months []Month,
	name func(roster.UnitID) string,
) Table {
	t := Table{
		Title: titles[ByBudget],
		Notes: []string{
			"Budgets are those of now, also beside earlier months.",
			"What a unit spends counts for the units around it too, so that rows do not add up to the total.",
		},
		Columns: []Column{{"Month", Text}, {"Unit", Text}, {"Spent", Money}, {"Budget for a month", Money}, {"Used", Share}},
		Chart:   Chart{Form: Across, Series: []Series{{2, TonePlain}, {3, ToneLimit}}},
	}
	type place struct {
		unit  roster.UnitID
		month string
	}
	spent := map[place]map[string]money.Amount{}
	for _, s := range list {
		f := Figures{Costs: spent[place{s.Unit, s.Month}]}
		f.Add(Figures{Costs: s.Costs})
		spent[place{s.Unit, s.Month}] = f.Costs
	}
	for _, m := range slices.Backward(months) { // the newest first
		for _, unit := range sortUnits(budgets, name) {
			f := Figures{Costs: spent[place{unit, m.Key}]}
			t.Rows = append(t.Rows, Row{Cells: append(
				[]Cell{{Text: MonthName(m.Key)}, {Text: name(unit)}}, against(f, budgets[unit], currency)...,
			)})
		}
	}
	t.Total = &Row{Cells: []Cell{{Text: "Together"}, {}, cost(total), {}, {}}}
	return t
}

func sortUnits(budgets map[roster.UnitID]money.Amount, name func(roster.UnitID) string) []roster.UnitID {
	return slices.SortedFunc(maps.Keys(budgets), func(a, b roster.UnitID) int {
		return cmp.Or(strings.Compare(name(a), name(b)), cmp.Compare(a, b))
	})
}

// against is what was spent beside a budget; 0 is none.
func against(f Figures, budget money.Amount, currency string) []Cell {
	spent, used := cost(f), Cell{}
	amount, same := f.Costs[currency]
	if spent.Text == "" {
		spent = AmountCell(0, currency)
	}
	if budget == 0 {
		return []Cell{spent, {}, {}}
	}
	if same || len(f.Costs) == 0 {
		used = share100(float64(amount) / float64(budget))
	}
	return []Cell{spent, AmountCell(budget, currency), used}
}

// Burden is to how many messages a household was a recipient.
type Burden struct {
	Names    []string
	People   int
	Messages int
}

// step is a range of how many messages.
type step struct{ from, to int }

const endless = 1 << 30

// steps are those into which burdens are counted.
var steps = []step{{0, 0}, {1, 1}, {2, 3}, {4, 7}, {8, 15}, {16, 31}, {32, 63}, {64, endless}}

// mostNamed is how many households are named that got most.
const mostNamed = 5

// Load is the table of how many messages households got. Gone is how many recipients
// are no longer on the roster. Names are said only if they may be.
func Load(list []Burden, gone int, named bool) Table {
	t := Table{
		Title: titles[ByLoad], Columns: []Column{{"Messages", Text}, {"Households", Count}, {"People", Count}},
		Chart: Chart{Form: Bars, Series: []Series{{1, TonePlain}}},
	}
	households, people := 0, 0
	for _, s := range steps {
		h, p := 0, 0
		for _, b := range list {
			if b.Messages >= s.from && b.Messages <= s.to {
				h, p = h+1, p+b.People
			}
		}
		households, people = households+h, people+p
		if h > 0 {
			t.Rows = append(t.Rows, Row{Cells: []Cell{{Text: s.words()}, count(h), count(p)}})
		}
	}
	t.Total = &Row{Cells: []Cell{{Text: "Together"}, count(households), count(people)}}
	t.Notes = []string{"Somebody whose guardians live apart counts in the household of each."}
	if gone > 0 {
		t.Notes = append(t.Notes, plan.Count(gone, "recipient is", "recipients are")+
			" no longer on the roster and in no household.")
	}
	if named {
		t.Notes = append(t.Notes, most(list)...)
	}
	return t
}

func most(list []Burden) []string {
	sorted := slices.Clone(list)
	slices.SortStableFunc(sorted, func(a, b Burden) int { return b.Messages - a.Messages })
	var notes []string
	for _, b := range sorted[:min(mostNamed, len(sorted))] {
		if b.Messages < 2 {
			break
		}
		notes = append(notes, fmt.Sprintf("%s: %s", strings.Join(b.Names, ", "), plan.Count(b.Messages, "message", "messages")))
	}
	if len(notes) > 0 {
		notes = append([]string{"Those who got most:"}, notes...)
	}
	return notes
}

// GapDay is how many people had which gap on a day.
type GapDay struct {
	Day   roster.Date
	Count map[string]int // by roster.Gap, CountDeclines or CountPeople
}

// What is counted each day besides gaps.
const (
	CountDeclines = "declines" // people who decline something at one of their addresses
	CountPeople   = "people"   // everybody who has not left
)

// GapsOverTime is the table of gaps and opt-outs, day by day.
func GapsOverTime(days []GapDay) Table {
	t := Table{
		Title: titles[ByGap], Columns: []Column{{"Day", Text}},
		Notes: []string{
			"People are counted once a day while the program runs. Somebody with two gaps counts in both.",
		},
		Chart: Chart{Form: Lines},
	}
	keys := []string{}
	for _, g := range roster.Gaps {
		keys = append(keys, string(g))
		t.Columns = append(t.Columns, Column{g.Short(), Count})
	}
	keys = append(keys, CountDeclines, CountPeople)
	t.Columns = append(t.Columns, Column{"Decline something", Count}, Column{"People in all", Count})
	for i := range len(keys) - 1 { // people in all would flatten the others
		t.Chart.Series = append(t.Chart.Series, Series{i + 1, TonePlain})
	}
	for _, d := range days {
		r := Row{Cells: []Cell{{Text: dayName(d.Day)}}}
		for _, k := range keys {
			r.Cells = append(r.Cells, count(d.Count[k]))
		}
		t.Rows = append(t.Rows, r)
	}
	return t
}

func dayName(day roster.Date) string {
	t, err := time.Parse(time.DateOnly, string(day))
	if err != nil {
		return string(day)
	}
	return t.Format("2 Jan 2006")
}

func (s step) words() string {
	switch {
	case s.from == s.to:
		return plan.Thousands(s.from)
	case s.to == endless:
		return fmt.Sprintf("%d and more", s.from)
	}
	return fmt.Sprintf("%d to %d", s.from, s.to)
}

// CountDay counts, by unit and by what, who has a gap, who declines something, and all.
// Who has left is not counted.
func CountDay(r *roster.Roster) map[roster.UnitID]map[string]int {
	counts := map[roster.UnitID]map[string]int{}
	for i := range r.Len() {
		p := r.At(i)
		if p.Status == roster.Left {
			continue
		}
		if counts[p.Unit] == nil {
			counts[p.Unit] = map[string]int{}
		}
		of := counts[p.Unit]
		of[CountPeople]++
		if slices.ContainsFunc(p.Addresses, func(a roster.Address) bool { return a.DeclinesRoutine || a.DeclinesTimely }) {
			of[CountDeclines]++
		}
		for _, g := range roster.Gaps {
			if r.Has(g, i) {
				of[string(g)]++
			}
		}
	}
	return counts
}
