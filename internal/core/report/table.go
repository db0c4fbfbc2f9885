package report

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/seek"
)

// Kind is how the cells of a column are written.
type Kind string

const (
	Text  Kind = "text"
	Count Kind = "count"
	Share Kind = "share" // of a hundred
	Money Kind = "money"
	Time  Kind = "time"
)

// Kinds lists every kind.
var Kinds = []Kind{Text, Count, Share, Money, Time}

// Column is a column of a table.
type Column struct {
	Name string `json:"name"`
	Kind Kind   `json:"kind"`
}

// Cell is what stands in a row. Number is the figure: of Share between 0 and 1, of
// Time in seconds, of Money in whole units of its currency.
type Cell struct {
	Text   string   `json:"text" doc:"As it is read; empty when there is nothing to say"`
	Number *float64 `json:"number,omitempty"`
}

// Row is a row, with the messages that it leads to.
type Row struct {
	Cells []Cell       `json:"cells"`
	To    *seek.Search `json:"to,omitempty" doc:"The messages that it counts, to be looked for"`
}

// Chart is what of a table is drawn.
type Chart struct {
	Form   Form     `json:"form"`
	Series []Series `json:"series"`
}

// Form is how a chart is drawn.
type Form string

const (
	Lines  Form = "lines"  // over time
	Bars   Form = "bars"   // upright, over time or from less to more
	Across Form = "across" // bars beside their names
)

// Forms lists every form.
var Forms = []Form{Lines, Bars, Across}

// Series is a column that is drawn. Those of parts of a whole stand on one another.
type Series struct {
	Column int  `json:"column" doc:"By index"`
	Tone   Tone `json:"tone"`
}

// Tone is what the figures of a series mean.
type Tone string

const (
	ToneReached Tone = "reached"
	ToneWaiting Tone = "waiting"
	ToneMissed  Tone = "missed"
	ToneStopped Tone = "stopped"
	TonePlain   Tone = "plain" // no part of a whole
	ToneLimit   Tone = "limit" // what something is measured by
)

// Tones lists every tone.
var Tones = []Tone{ToneReached, ToneWaiting, ToneMissed, ToneStopped, TonePlain, ToneLimit}

// Table is a report as it is read, drawn, mailed and written to files.
type Table struct {
	Title   string   `json:"title"`
	About   []string `json:"about" doc:"Which messages it is about, in words"`
	Notes   []string `json:"notes" doc:"What is to be known to read it rightly"`
	Columns []Column `json:"columns"`
	Rows    []Row    `json:"rows"`
	Total   *Row     `json:"total,omitempty"`
	Chart   Chart    `json:"chart"`
}

// Named is a row's key as it is read, and the condition that leads to its messages; nil
// leads nowhere.
type Named struct {
	Label  string
	Clause *seek.Clause
}

var titles = map[By]string{
	ByMonth: "Messages by month", BySender: "Messages by sender", ByUnit: "Messages by unit", ByUrgency: "Messages by urgency",
	ByLanguage: "Recipients by language", ByGroup: "Messages by group", ByChannel: "Deliveries by channel",
	ByCarrier: "Deliveries by carrier", ByBudget: "Cost and budgets", ByLoad: "Messages by household",
	ByGap: "Gaps and opt-outs",
}

var heads = map[By]string{
	ByMonth: "Month", BySender: "Sender", ByUnit: "Unit", ByUrgency: "Urgency", ByLanguage: "Language", ByGroup: "Group",
	ByChannel: "Channel", ByCarrier: "Carrier", ByBudget: "Unit", ByLoad: "Messages", ByGap: "Day",
}

// Title is what a report is called.
func (b By) Title() string { return titles[b] }

// Tabulate makes a table of rows and of what they come to together. Name names a key.
func Tabulate(a Ask, rows []Counted, total Figures, name func(key string) Named) Table {
	t := Table{Title: titles[a.By], Columns: columns(a.By), Chart: Chart{Form: Bars, Series: []Series{
		{3, ToneReached}, {4, ToneWaiting}, {5, ToneMissed}, {6, ToneStopped},
	}}}
	if a.By != ByMonth {
		sortRows(rows, name)
		t.Chart.Form = Across
	}
	for _, row := range rows {
		n := name(row.Key)
		r := Row{Cells: cells(n.Label, row.Figures)}
		if n.Clause != nil && row.Messages > 0 {
			r.To = &seek.Search{Conditions: slices.Concat(a.Conditions, []seek.Clause{*n.Clause}, left)}
		}
		t.Rows = append(t.Rows, r)
	}
	t.Total = &Row{Cells: cells("Together", total)}
	t.Notes = notes(a.By)
	t.tidy()
	return t
}

// always are the columns that stand there whatever is in them: what it is, messages,
// all, reached, and not reached.
var always = []int{0, 1, 2, 3, 5}

// tidy takes out the columns in which there is nothing at all.
func (t *Table) tidy() {
	empty := func(c Cell) bool { return c.Text == "" || c.Text == "0" }
	for col := len(t.Columns) - 1; col >= 0; col-- {
		said := func(r Row) bool { return !empty(r.Cells[col]) }
		if slices.Contains(always, col) || said(*t.Total) || slices.ContainsFunc(t.Rows, said) {
			continue
		}
		t.Columns = slices.Delete(t.Columns, col, col+1)
		for i := range t.Rows {
			t.Rows[i].Cells = slices.Delete(t.Rows[i].Cells, col, col+1)
		}
		t.Total.Cells = slices.Delete(t.Total.Cells, col, col+1)
		t.Chart.Series = slices.DeleteFunc(t.Chart.Series, func(s Series) bool { return s.Column == col })
		for i := range t.Chart.Series {
			if t.Chart.Series[i].Column > col {
				t.Chart.Series[i].Column--
			}
		}
	}
}

// left are the conditions on the state of messages that are counted: they left.
var left = []seek.Clause{{On: seek.OnState, Value: "draft", Not: true}, {On: seek.OnState, Value: "held", Not: true}}

// sortRows puts the rows with most first.
func sortRows(rows []Counted, name func(string) Named) {
	slices.SortStableFunc(rows, func(x, y Counted) int {
		return cmp.Or(y.All-x.All, y.Messages-x.Messages, strings.Compare(name(x.Key).Label, name(y.Key).Label))
	})
}

func notes(by By) []string {
	switch {
	case by == ByGroup:
		return []string{"A message to several groups counts with each of them, so that the rows do not add up to the total."}
	case by.Deliveries():
		return []string{
			"Deliveries are counted, not people: somebody with two addresses can get two.",
			"A message can go by several of these, so that messages do not add up to the total.",
		}
	case by == ByLanguage:
		return []string{
			"Each person counts in the language of what they got. A message in several languages counts with each of them.",
		}
	}
	return nil
}

func columns(by By) []Column {
	all, reached, missed := "Recipients", "Reached", "Not reached"
	if by.Deliveries() {
		all, reached, missed = "Deliveries", "Arrived", "Failed"
	}
	return []Column{
		{heads[by], Text}, {"Messages", Count}, {all, Count}, {reached, Count}, {"Under way", Count}, {missed, Count},
		{"Stopped", Count}, {"Share " + strings.ToLower(reached), Share}, {"Got nothing", Count}, {"Half within", Time},
		{"Nine tenths within", Time}, {"Cost", Money},
	}
}

func cells(label string, f Figures) []Cell {
	share := Cell{}
	if f.All > 0 {
		share = share100(float64(f.Reached) / float64(f.All))
	}
	return []Cell{
		{Text: label}, count(f.Messages), count(f.All), count(f.Reached), count(f.Waiting), count(f.Missed),
		count(f.Stopped), share, count(f.LeftOut), within(f, 0.5), within(f, 0.9), cost(f),
	}
}

func count(n int) Cell {
	number := float64(n)
	return Cell{Text: plan.Thousands(n), Number: &number}
}

// share100 writes a share; one that is not whole is never rounded up to all of it.
func share100(share float64) Cell {
	percent := math.Round(share * 100)
	if percent == 100 && share < 1 {
		percent = 99
	}
	return Cell{Text: fmt.Sprintf("%.0f %%", percent), Number: &share}
}

func within(f Figures, share float64) Cell {
	d, known := f.Within(share)
	if !known {
		return Cell{}
	}
	return lasted(d)
}

func lasted(d time.Duration) Cell {
	seconds := d.Seconds()
	return Cell{Text: Lasted(d), Number: &seconds}
}

// cost has a figure only where it is in a single currency.
func cost(f Figures) Cell {
	c := Cell{Text: f.Cost()}
	if len(f.Costs) == 1 {
		for currency, amount := range f.Costs {
			c.Number = AmountCell(amount, currency).Number
		}
	}
	return c
}

// AmountCell is an amount in a currency, ISO 4217.
func AmountCell(a money.Amount, currency string) Cell {
	whole, err := strconv.ParseFloat(a.Exact(currency), 64)
	if err != nil {
		return Cell{Text: a.Format(currency)} // it has more digits than a figure that is drawn
	}
	return Cell{Text: a.Format(currency), Number: &whole}
}
