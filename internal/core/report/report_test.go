package report_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/report"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/seek"
)

var today = time.Date(2026, 3, 29, 23, 30, 0, 0, time.UTC)

func TestSpans(t *testing.T) {
	for _, c := range []struct {
		name        string
		span        report.Span
		from, until roster.Date
		says        string
	}{
		{"this month", report.Span{Of: "this-month"}, "2026-03-01", "2026-03-29", ""},
		{"last month, a short one", report.Span{Of: "last-month"}, "2026-02-01", "2026-02-28", ""},
		{"twelve months over a new year", report.Span{Of: "last-12-months"}, "2025-04-01", "2026-03-29", ""},
		{"this year", report.Span{Of: "this-year"}, "2026-01-01", "2026-03-29", ""},
		{"last year", report.Span{Of: "last-year"}, "2025-01-01", "2025-12-31", ""},
		{"a day", report.Span{Of: "days", From: "2026-03-29", Until: "2026-03-29"}, "2026-03-29", "2026-03-29", ""},
		{"days the wrong way round", report.Span{Of: "days", From: "2026-03-29", Until: "2026-03-28"}, "", "", "comes after the last"},
		{"no day", report.Span{Of: "days", From: "2026-03-32", Until: "2026-03-28"}, "", "", `"2026-03-32" is no day`},
		{"no last day", report.Span{Of: "days", From: "2026-03-01"}, "", "", `"" is no day`},
		{"too long", report.Span{Of: "days", From: "1990-03-01", Until: "2026-03-01"}, "", "", "120 months at most"},
		{"nothing", report.Span{}, "", "", "is no span"},
	} {
		t.Run(c.name, func(t *testing.T) {
			from, until, err := c.span.Days(today)
			if c.says != "" {
				assert.ErrorContains(t, err, c.says)
				assert.ErrorIs(t, err, report.ErrUnfit)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, []roster.Date{c.from, c.until}, []roster.Date{from, until})
		})
	}
}

func TestMonthsOfASpanStandInItWholeOrInPart(t *testing.T) {
	assert.Equal(t, []report.Month{
		{Key: "2025-12", From: "2025-12-15", Until: "2025-12-31"}, {Key: "2026-01", From: "2026-01-01", Until: "2026-01-31"},
		{Key: "2026-02", From: "2026-02-01", Until: "2026-02-02"},
	}, report.Months("2025-12-15", "2026-02-02"))
	assert.Equal(t, []report.Month{{Key: "2026-02", From: "2026-02-02", Until: "2026-02-02"}}, report.Months("2026-02-02", "2026-02-02"))
	assert.Empty(t, report.Months("", ""))
}

func TestWhatCannotBeCountedIsRefused(t *testing.T) {
	for _, c := range []struct {
		name string
		ask  report.Ask
		says string
	}{
		{"by nothing", report.Ask{}, `no report by ""`},
		{"each once", report.Ask{By: report.Once}, "no report by"},
		{"a budget with conditions", report.Ask{By: report.ByBudget, Conditions: []seek.Clause{{On: seek.OnMissed}}}, "has no conditions"},
		{"a condition that says nothing", report.Ask{By: report.ByMonth, Conditions: []seek.Clause{{On: seek.OnSender}}}, "no sender is named"},
		{"no unit, said so", report.Ask{By: report.ByMonth, Conditions: []seek.Clause{{On: seek.OnUnit, Value: seek.None}}}, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			err := c.ask.Validate()
			if c.says == "" {
				assert.NoError(t, err)
				return
			}
			assert.ErrorContains(t, err, c.says)
		})
	}
}

func seconds(list ...int) (delays []report.Delay) {
	for _, s := range list {
		delays = append(delays, report.Delay{After: time.Duration(s) * time.Second, Count: 1})
	}
	return delays
}

// The shares are of all recipients: who was not reached has not been reached in time.
func TestHowLongItTookToReachAShare(t *testing.T) {
	for _, c := range []struct {
		name    string
		figures report.Figures
		share   float64
		after   time.Duration
		known   bool
	}{
		{"half of four", report.Figures{All: 4, Delays: seconds(9, 1, 5, 3)}, 0.5, 3 * time.Second, true},
		{"half of three is two", report.Figures{All: 3, Delays: seconds(1, 5, 9)}, 0.5, 5 * time.Second, true},
		{"nine tenths of ten", report.Figures{All: 10, Delays: seconds(1, 2, 3, 4, 5, 6, 7, 8, 9)}, 0.9, 9 * time.Second, true},
		{"too few reached", report.Figures{All: 10, Delays: seconds(1, 2, 3, 4)}, 0.5, 0, false},
		{"many at once", report.Figures{All: 10, Delays: []report.Delay{{time.Minute, 7}, {time.Second, 1}}}, 0.5, time.Minute, true},
		{"nobody", report.Figures{}, 0.5, 0, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			after, known := c.figures.Within(c.share)
			assert.Equal(t, c.known, known)
			assert.Equal(t, c.after, after)
		})
	}
}

func TestLasted(t *testing.T) {
	for d, words := range map[time.Duration]string{
		0: "1 s", 89 * time.Second: "89 s", 90 * time.Second: "2 min", 89 * time.Minute: "89 min", 90 * time.Minute: "2 h",
		35 * time.Hour: "35 h", 49 * time.Hour: "2 days",
	} {
		assert.Equal(t, words, report.Lasted(d))
	}
}

// Amounts in two currencies stand beside each other and are never one sum.
func TestCostsOfTwoCurrenciesAreNotAddedUp(t *testing.T) {
	f := report.Figures{Costs: map[string]money.Amount{"GBP": 320_000}}
	f.Add(report.Figures{Costs: map[string]money.Amount{"EUR": 110_000}})
	f.Add(report.Figures{Costs: map[string]money.Amount{"GBP": 80_000, "PLN": 0}})
	assert.Equal(t, "€1.10 + £4.00", f.Cost())
}

func named(key string) report.Named {
	return report.Named{Label: key, Clause: &seek.Clause{On: seek.OnUrgency, Value: key}}
}

func texts(r report.Row) (list []string) {
	for _, c := range r.Cells {
		list = append(list, c.Text)
	}
	return list
}

func TestATable(t *testing.T) {
	condition := seek.Clause{On: seek.OnMissed}
	rows := []report.Counted{
		{Key: "timely", Figures: report.Figures{Messages: 1, All: 2, Reached: 2, Delays: seconds(1, 1)}},
		{Key: "routine", Figures: report.Figures{
			Messages: 3, All: 1000, Reached: 999, Missed: 1, LeftOut: 7, Costs: map[string]money.Amount{"GBP": 12_345_000},
		}},
	}
	table := report.Tabulate(
		report.Ask{By: report.ByUrgency, Conditions: []seek.Clause{condition}}, rows, report.Together(rows), named,
	)
	assert.Equal(t, []string{"routine", "3", "1,000", "999", "1", "99 %", "7", "", "", "£123.45"}, texts(table.Rows[0]))
	assert.Equal(t, []string{"timely", "1", "2", "2", "0", "100 %", "0", "1 s", "1 s", ""}, texts(table.Rows[1]))
	assert.Equal(t, []string{"Together", "4", "1,002", "1,001", "1", "99 %", "7", "", "", "£123.45"}, texts(*table.Total))
	assert.Equal(t, []seek.Clause{
		condition, {On: seek.OnUrgency, Value: "routine"}, {On: seek.OnState, Value: "draft", Not: true},
		{On: seek.OnState, Value: "held", Not: true},
	}, table.Rows[0].To.Conditions)
	assert.Equal(t, "Not reached", table.Columns[table.Chart.Series[1].Column].Name, "what nobody waits for has no column")
	assert.Contains(t, table.Plain(), "Together\n  Messages: 4\n  Recipients: 1,002\n")
}

// Nobody gets lost between rows and total, whatever the rows have in common.
func TestRowsAndTotalHaveTheSamePeople(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		figure := rapid.IntRange(0, 1000)
		rows := make([]report.Counted, rapid.IntRange(0, 5).Draw(t, "rows"))
		for i := range rows {
			f := report.Figures{
				Messages: figure.Draw(t, "m"), Reached: figure.Draw(t, "r"), Waiting: figure.Draw(t, "w"),
				Missed: figure.Draw(t, "n"), Stopped: figure.Draw(t, "s"),
			}
			f.All = f.Reached + f.Waiting + f.Missed + f.Stopped
			rows[i] = report.Counted{Key: fmt.Sprint(i), Figures: f}
		}
		each := report.Together(rows)
		each.LeftOut = figure.Draw(t, "left out")
		by := rapid.SampledFrom([]report.By{report.ByLanguage, report.ByChannel, report.ByCarrier}).Draw(t, "by")
		rows, total := report.Overlapping(by, rows, each)
		sum := report.Together(rows)
		assert.Equal(t, total.All, sum.All)
		assert.Equal(t, total.All, total.Reached+total.Waiting+total.Missed+total.Stopped)
		if by == report.ByLanguage {
			assert.Equal(t, each.LeftOut, sum.LeftOut)
		}
	})
}

func TestBudgets(t *testing.T) {
	months := report.Months("2026-01-01", "2026-02-28")
	table := report.Budgets(
		[]report.Spent{
			{Unit: 2, Month: "2026-01", Costs: map[string]money.Amount{"GBP": 500_000}},
			{Unit: 2, Month: "2026-01", Costs: map[string]money.Amount{"GBP": 250_000}},
			{Unit: 2, Month: "2026-02", Costs: map[string]money.Amount{"EUR": 100_000}},
			{Unit: 0, Month: "2026-01", Costs: map[string]money.Amount{"GBP": 750_000}},
		},
		report.Figures{Costs: map[string]money.Amount{"GBP": 750_000, "EUR": 100_000}},
		map[roster.UnitID]money.Amount{0: 0, 2: 1_000_000}, "GBP", months,
		func(id roster.UnitID) string { return map[roster.UnitID]string{0: "all", 2: "Juniors"}[id] },
	)
	require.Len(t, table.Rows, 4)
	assert.Equal(t, []string{"January 2026", "Juniors", "£7.50", "£10.00", "75 %"}, texts(table.Rows[2]))
	assert.Equal(t, []string{"January 2026", "all", "£7.50", "", ""}, texts(table.Rows[3]))
	assert.Equal(t, []string{"February 2026", "Juniors", "€1.00", "£10.00", ""}, texts(table.Rows[0]), "another currency is no share of it")
	assert.Equal(t, "€1.00 + £7.50", table.Total.Cells[2].Text)
}

func TestLoad(t *testing.T) {
	r, err := roster.New(roster.Contents{People: []roster.Person{
		{ID: 1, GivenName: "Ana", FamilyName: "Venn", Roles: []roster.Role{roster.Guardian}},
		{ID: 2, GivenName: "Bo", FamilyName: "Venn", Roles: []roster.Role{roster.Dependent}},
		{ID: 3, GivenName: "Cy", FamilyName: "Quent"},
	}})
	require.NoError(t, err)
	c := report.NewCensus(r, []roster.Household{{People: []int{0, 1}}, {People: []int{2}}})
	for _, got := range []struct {
		message int64
		person  roster.PersonID
	}{{7, 1}, {7, 2}, {7, 99}, {8, 1}, {8, 0}} {
		c.Add(got.message, got.person)
	}
	table := report.Load(c.Burdens(), c.Gone(), true)
	assert.Equal(t, []string{"0", "1", "1"}, texts(table.Rows[0]))
	assert.Equal(t, []string{"2 to 3", "1", "2"}, texts(table.Rows[1]), "two of a household got message 7")
	assert.Equal(t, []string{"Together", "2", "3"}, texts(*table.Total))
	assert.Contains(t, table.Notes, "2 recipients are no longer on the roster and in no household.")
	assert.Contains(t, table.Notes, "Ana Venn, Bo Venn: 2 messages")
	assert.NotContains(t, fmt.Sprint(report.Load(c.Burdens(), 0, false).Notes), "Venn")
}

func TestGapsOverTime(t *testing.T) {
	r, err := roster.New(roster.Contents{People: []roster.Person{
		{ID: 1, GivenName: "Ana", Unit: 2, Addresses: []roster.Address{{Channel: roster.Email, Value: "a@example.org", DeclinesTimely: true}}},
		{ID: 2, GivenName: "Bo", Unit: 2, Language: "en"},
		{ID: 3, GivenName: "Cy", Status: roster.Left},
	}})
	require.NoError(t, err)
	counts := report.CountDay(r)
	assert.Equal(t, map[roster.UnitID]map[string]int{2: {"people": 2, "declines": 1, "no-address": 1, "no-language": 1}}, counts)
	table := report.GapsOverTime([]report.GapDay{{Day: "2026-03-29", Count: counts[2]}})
	assert.Equal(t, []string{"29 Mar 2026", "1", "0", "0", "0", "1", "1", "2"}, texts(table.Rows[0]))
	assert.Len(t, table.Chart.Series, 6, "everybody would flatten the others")
}
