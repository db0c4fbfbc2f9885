package exporting

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/phone"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/core/report"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/seek"
	"upperlantern/internal/exchange"
	"upperlantern/internal/messages"
	"upperlantern/internal/store"
)

// atOnce is how many rows are read at once.
const atOnce = 500

// list is what somebody wants written. It needs the right to see it.
func (s *Service) list(ctx context.Context, by access.Principal, w What) (list, error) {
	sees := by.May(access.ReadRecords) || by.May(access.Write)
	switch {
	case w.Report != nil && w.Search == nil && w.Message == 0:
		if !by.May(access.RunReports) {
			return list{}, fmt.Errorf("%w: it needs the right to run reports", ErrRight)
		}
		return s.report(ctx, by, *w.Report)
	case w.Report == nil && w.Search != nil && w.Message == 0:
		if !sees {
			return list{}, fmt.Errorf("%w: it needs the right to read records, or to write", ErrRight)
		}
		return s.found(ctx, by, *w.Search)
	case w.Report == nil && w.Search == nil && w.Message != 0:
		if !by.May(access.ReadRecords) {
			return list{}, fmt.Errorf("%w: it needs the right to read records", ErrRight)
		}
		return s.record(ctx, by, w.Message)
	}
	return list{}, fmt.Errorf("%w: name a report, a search or a message, and one of them only", ErrUnfit)
}

func (s *Service) report(ctx context.Context, by access.Principal, ask report.Ask) (list, error) {
	t, err := s.Reporting.Run(ctx, by, ask)
	if err != nil {
		return list{}, err
	}
	l := list{List: exchange.List{Title: t.Title, About: t.About, Notes: t.Notes}, name: t.Title, rows: len(t.Rows)}
	for _, c := range t.Columns {
		column := exchange.ListColumn{Name: c.Name, Figure: c.Kind != report.Text, Money: c.Kind == report.Money, Share: 1}
		if c.Kind == report.Text {
			column.Share = 2
		}
		l.Columns = append(l.Columns, column)
	}
	l.each = func(_ context.Context, row func([]exchange.ListCell, bool) error) error {
		for _, r := range t.Rows {
			if err := row(cellsOf(r), false); err != nil {
				return err
			}
		}
		if t.Total == nil {
			return nil
		}
		return row(cellsOf(*t.Total), true)
	}
	return l, nil
}

func cellsOf(r report.Row) []exchange.ListCell {
	cells := make([]exchange.ListCell, len(r.Cells))
	for i, c := range r.Cells {
		cells[i] = exchange.ListCell{Text: c.Text, Number: c.Number}
	}
	return cells
}

// words are a cell of text, and number is one of a figure.
func words(text string) exchange.ListCell { return exchange.ListCell{Text: text} }

func number(n int) exchange.ListCell {
	f := float64(n)
	return exchange.ListCell{Text: plan.Thousands(n), Number: &f}
}

// moment writes an instant on the organisation's clocks.
func moment(at time.Time, zone *time.Location) exchange.ListCell {
	if at.IsZero() {
		return exchange.ListCell{}
	}
	return words(at.In(zone).Format("2006-01-02 15:04"))
}

var foundColumns = []exchange.ListColumn{
	{Name: "Message", Share: 3.3}, {Name: "State", Share: 1.1, Whole: true}, {Name: "Urgency", Share: 1.1, Whole: true},
	{Name: "Sender", Share: 2.1}, {Name: "Left", Share: 2, Whole: true}, {Name: "Recipients", Figure: true, Share: 1.3},
	{Name: "Reached", Figure: true}, {Name: "Waiting", Figure: true}, {Name: "Not reached", Figure: true},
	{Name: "Stopped", Figure: true}, {Name: "Got nothing", Figure: true}, {Name: "Deliveries", Figure: true, Share: 1.2},
	{Name: "Cost", Figure: true, Money: true},
}

var stateWords = map[store.MessageState]string{
	store.Draft: "draft", store.Held: "on hold", store.Sending: "going out", store.Sent: "gone out", store.Stopped: "stopped",
}

// found are the messages that are looked for, in their order.
func (s *Service) found(ctx context.Context, by access.Principal, search seek.Search) (list, error) {
	look, err := s.Messages.Look(ctx, by, search)
	if err != nil {
		return list{}, err
	}
	var ids []int64
	if len(look.Missing) == 0 {
		if ids, err = s.Store.FoundIDs(ctx, look.Sought); err != nil {
			return list{}, err
		}
	}
	l := list{
		List: exchange.List{Title: "Messages", About: look.Words, Columns: foundColumns}, name: "Messages", rows: len(ids),
	}
	if len(look.Missing) > 0 {
		l.Notes = []string{"A condition names something that is no longer there: nothing is found."}
	}
	l.each = func(ctx context.Context, row func([]exchange.ListCell, bool) error) error {
		for some := range slices.Chunk(ids, atOnce) {
			headings, err := s.Store.Headings(ctx, some)
			if err != nil {
				return err
			}
			for _, m := range headings {
				if err := row(messageCells(m, look), false); err != nil {
					return err
				}
			}
		}
		return nil
	}
	return l, nil
}

func messageCells(m store.Heading, look messages.Look) []exchange.ListCell {
	sender, left, f := m.Sender, m.LeavesAt, m.Figures
	if m.State == store.Draft {
		cells := []exchange.ListCell{
			words(m.Title), words(stateWords[m.State]), words(string(m.Urgency)), words(m.Author),
		}
		return append(cells, make([]exchange.ListCell, len(foundColumns)-len(cells))...)
	}
	cost := report.AmountCell(f.Spent, m.Currency)
	return []exchange.ListCell{
		words(m.Title), words(stateWords[m.State]), words(string(m.Urgency)), words(sender), moment(left, look.Zone()),
		number(f.Recipients), number(f.Reached), number(f.Waiting), number(f.NotReached), number(f.Stopped),
		number(f.LeftOut), number(f.Deliveries), {Text: cost.Text, Number: cost.Number},
	}
}

var recordColumns = []exchange.ListColumn{
	{Name: "Name", Share: 2.2}, {Name: "Came to", Share: 1.2, Whole: true}, {Name: "Step", Figure: true, Share: 0.6},
	{Name: "Channel", Share: 0.9, Whole: true}, {Name: "Address", Share: 2.7}, {Name: "State", Share: 1.4, Whole: true},
	{Name: "Last heard", Share: 2, Whole: true}, {Name: "What was said", Share: 2.2}, {Name: "Why they were chosen", Share: 3.2},
}

var outcomeWords = map[record.Outcome]string{
	record.Reached: "reached", record.Answered: "answered", record.Waiting: "waiting", record.NotReached: "not reached",
	record.Stopped: "stopped",
}

// record is what became of a message for each recipient, a row for each delivery, and
// who got nothing.
func (s *Service) record(ctx context.Context, by access.Principal, id int64) (list, error) {
	m, err := s.Messages.Heading(ctx, by, id)
	if err != nil {
		return list{}, err
	}
	if m.State == store.Draft {
		return list{}, fmt.Errorf("%w: a draft has no record", ErrUnfit)
	}
	look, err := s.Messages.Look(ctx, by, seek.Search{})
	if err != nil {
		return list{}, err
	}
	f := m.Figures
	l := list{
		List: exchange.List{
			Title: m.Title, Columns: recordColumns,
			About: []string{
				fmt.Sprintf("%s, sent by %s, left %s", m.Urgency, m.Sender, moment(m.LeavesAt, look.Zone()).Text),
				strings.Join([]string{
					plan.Count(f.Recipients, "recipient", "recipients"), plan.Thousands(f.Reached) + " reached",
					plan.Thousands(f.Waiting) + " waiting", plan.Thousands(f.NotReached) + " not reached",
					plan.Thousands(f.Stopped) + " stopped", plan.Thousands(f.LeftOut) + " got nothing",
				}, ", "),
			},
			Notes: []string{"A recipient with several deliveries has a row for each."},
		},
		name: m.Title, rows: max(f.Deliveries, f.Recipients) + f.LeftOut,
	}
	l.each = func(ctx context.Context, row func([]exchange.ListCell, bool) error) error {
		return s.eachRecipient(ctx, m, look.Zone(), row)
	}
	return l, nil
}

func (s *Service) eachRecipient(
	ctx context.Context, m store.Heading, zone *time.Location, row func([]exchange.ListCell, bool) error,
) error {
	answers, err := s.answers(ctx, m)
	if err != nil {
		return err
	}
	for after := int64(0); ; {
		some, err := s.Store.RecipientsAfter(ctx, m, after, atOnce)
		if err != nil {
			return err
		}
		for _, r := range some {
			after = r.ID
			for _, cells := range recipientCells(r, answers[r.ID], zone) {
				if err := row(cells, false); err != nil {
					return err
				}
			}
		}
		if len(some) < atOnce {
			break
		}
	}
	left, _, err := s.Store.LeftOut(ctx, m.ID)
	if err != nil {
		return err
	}
	for _, l := range left {
		cells := []exchange.ListCell{words(l.Name), words("got nothing"), {}, {}, {}, {}, {}, words(l.Detail), {}}
		if err := row(cells, false); err != nil {
			return err
		}
	}
	return nil
}

// answers are the words of what the recipients of a question answered.
func (s *Service) answers(ctx context.Context, m store.Heading) (map[int64]string, error) {
	asking, err := s.Store.Asking(ctx, []int64{m.ID})
	if err != nil || len(asking) == 0 {
		return nil, err
	}
	whole, err := s.Store.Message(ctx, m.ID)
	if err != nil {
		return nil, err
	}
	board, err := s.Store.Board(ctx, m.ID)
	said := map[int64]string{}
	for _, a := range board.Asked {
		choice, ok := whole.Draft.Question.Choice(a.Number)
		switch {
		case ok && a.Minutes > 0:
			said[a.Recipient] = fmt.Sprintf("%s (%d min)", choice.Words, a.Minutes)
		case ok:
			said[a.Recipient] = choice.Words
		}
	}
	return said, err
}

func recipientCells(r store.RecipientRecord, answer string, zone *time.Location) [][]exchange.ListCell {
	came := outcomeWords[r.Outcome]
	if answer != "" {
		came += ": " + answer
	}
	who := []exchange.ListCell{words(r.Name), words(came)}
	if len(r.Deliveries) == 0 {
		cells := append(who, make([]exchange.ListCell, len(recordColumns)-len(who))...)
		cells[len(cells)-1] = words(r.Why)
		return [][]exchange.ListCell{cells}
	}
	var rows [][]exchange.ListCell
	for _, d := range r.Deliveries {
		address := phone.Display(d.Address)
		if d.Channel == roster.Push {
			address = d.Address
		}
		rows = append(rows, append(slices.Clone(who),
			number(r.Step), words(plan.ChannelWord(d.Channel)), words(address), words(d.State.Words()),
			moment(d.UpdatedAt, zone), words(d.Detail), words(r.Why),
		))
	}
	return rows
}
