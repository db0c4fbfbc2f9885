package standin

import (
	"bytes"
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/roster"
)

const (
	reportBatch  = 200
	reportsAtOne = 16
	// A report that nobody takes is sent again, at growing waits, for a day.
	reportAgain = 2 * time.Second
	reportUntil = 24 * time.Hour
)

type dueReport struct {
	taking
	id      int64
	takenAt time.Time
	pressed string // the key that was pressed afterwards
	older   bool   // it says what was so before another report
}

// again is when a report that nobody took is sent next: after a quarter of its
// age. There is no next time for one of a day.
func (d dueReport) again(now time.Time) (at time.Time, more bool) {
	age := now.Sub(d.takenAt)
	return now.Add(max(reportAgain, age/4)), age < reportUntil
}

// Unreported counts the reports that are still to come.
func (b *Box) Unreported(ctx context.Context) (n int, err error) {
	err = b.db.QueryRowContext(ctx, `SELECT count(*) FROM taken WHERE reported = 0`).Scan(&n)
	return n, err
}

// Run reports on what was taken until ctx ends. A report that nobody takes is
// sent again, as real carriers do.
func (b *Box) Run(ctx context.Context) {
	for ctx.Err() == nil {
		due, next, err := b.due(ctx)
		if err != nil && ctx.Err() == nil {
			b.Log.Error("stand-ins: looking for reports", "error", err)
			next = reportAgain
		}
		if len(due) == 0 {
			b.nap(ctx, next)
			continue
		}
		b.sendAll(ctx, due)
	}
}

// nap waits until there may be more to report. The clock may jump meanwhile, so it
// is looked at again before long.
func (b *Box) nap(ctx context.Context, length time.Duration) {
	timer := time.NewTimer(min(length, reportAgain))
	defer timer.Stop()
	select {
	case <-ctx.Done():
	case <-timer.C:
	case <-b.wake:
	}
}

// due lists the reports to send now, or how long there are none.
func (b *Box) due(ctx context.Context) ([]dueReport, time.Duration, error) {
	now := b.Now().UnixMilli()
	rows, err := b.db.QueryContext(ctx, `SELECT id, key, channel, address, state, detail, gone, report_to, taken_at, pressed
FROM taken WHERE reported = 0 AND report_at <= ? ORDER BY report_at LIMIT ?`, now, reportBatch)
	if err != nil {
		return nil, time.Minute, err
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var list []dueReport
	for rows.Next() {
		var d dueReport
		var takenAt int64
		err := rows.Scan(
			&d.id, &d.Key, &d.Channel, &d.Address, &d.state, &d.detail, &d.gone, &d.reportTo, &takenAt, &d.pressed,
		)
		if err != nil {
			return nil, time.Minute, err
		}
		d.takenAt = time.UnixMilli(takenAt)
		list = append(list, d)
	}
	if err := rows.Err(); err != nil || len(list) > 0 {
		return list, 0, err
	}
	var next int64
	err = b.db.QueryRowContext(ctx, `SELECT coalesce(min(report_at), 0) FROM taken WHERE reported = 0`).Scan(&next)
	if err != nil || next == 0 {
		return nil, time.Minute, err
	}
	return nil, time.Duration(next-now) * time.Millisecond, nil
}

// sendAll sends reports, several at once, and keeps which were taken.
func (b *Box) sendAll(ctx context.Context, due []dueReport) {
	slot := make(chan struct{}, reportsAtOne)
	failed := make([]error, len(due))
	var all sync.WaitGroup
	for i, d := range due {
		slot <- struct{}{}
		all.Go(func() {
			defer func() { <-slot }()
			if failed[i] = b.report(ctx, d); failed[i] != nil {
				return
			}
			for _, more := range b.more(d) { // of which nobody asks whether it was taken
				if err := b.report(ctx, more); err != nil && ctx.Err() == nil {
					b.Log.Warn("stand-ins: nobody took a further report", "to", d.reportTo, "error", err)
				}
			}
		})
	}
	all.Wait()
	if ctx.Err() != nil {
		return
	}
	err := b.together(func(tx *sql.Tx) error {
		for i, d := range due {
			// What was pressed meanwhile is still to be reported.
			query, value := `UPDATE taken SET reported = ? WHERE id = ? AND pressed = ?`, int64(1)
			if failed[i] != nil {
				at, more := d.again(b.Now())
				b.Log.Warn("stand-ins: nobody took a report", "to", d.reportTo, "again", more, "error", failed[i])
				if more {
					query, value = `UPDATE taken SET report_at = ? WHERE id = ? AND pressed = ?`, at.UnixMilli()
				}
			}
			if _, err := tx.Exec(query, value, d.id, d.pressed); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		b.Log.Error("stand-ins: keeping what was reported", "error", err)
	}
}

func (b *Box) report(ctx context.Context, d dueReport) error {
	id := "r" + strconv.FormatInt(d.id, 10)
	if d.pressed != "" {
		id += "-pressed"
	}
	if d.older {
		id += "-older"
	}
	if d.Channel == roster.Email {
		return b.sendNotification(d, id)
	}
	if d.Channel == roster.Push {
		return b.post(ctx, d.reportTo, http.Header{}, []byte(`{"state":"`+string(d.state)+`"}`))
	}
	now, at := b.Now(), b.Now()
	if d.older {
		at = at.Add(-time.Second)
	}
	body, err := json.Marshal(carrier.GatewayReport{
		Key: d.Key, State: d.state, Detail: d.detail, Gone: d.gone, Pressed: d.pressed, At: at,
	})
	if err != nil {
		return err
	}
	header := http.Header{}
	carrier.Sign(header, b.Secret, id, now, body)
	return b.post(ctx, d.reportTo, header, body)
}

func (b *Box) post(ctx context.Context, to string, header http.Header, body []byte) error {
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, to, bytes.NewReader(body))
	if err != nil {
		return err
	}
	req.Header = header
	req.Header.Set("Content-Type", "application/json")
	resp, err := b.client.Do(req)
	if err != nil {
		return err
	}
	defer resp.Body.Close() //nolint:errcheck // it was read as far as is wanted
	if resp.StatusCode == http.StatusNotFound {
		return nil // the sender has forgotten the delivery; so shall we
	}
	if resp.StatusCode >= 300 {
		why, _ := io.ReadAll(io.LimitReader(resp.Body, 200)) // what can be read of it
		return fmt.Errorf("%w: %s", ErrRefused, cmp.Or(strings.TrimSpace(string(why)), resp.Status))
	}
	return nil
}

func (b *Box) sendNotification(d dueReport, id string) error {
	return b.sendMail("", d.reportTo, strings.NewReader(notification(d.taking, id, b.Now())))
}
