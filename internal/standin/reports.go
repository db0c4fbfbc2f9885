package standin

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-smtp"

	"upperlantern/internal/carrier"
	"upperlantern/internal/core/roster"
)

const (
	reportBatch  = 200
	reportsAtOne = 16
	reportAgain  = 2 * time.Second
)

type dueReport struct {
	taking
	id int64
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

func (b *Box) nap(ctx context.Context, length time.Duration) {
	timer := time.NewTimer(length)
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
	rows, err := b.db.QueryContext(ctx, `SELECT id, key, channel, address, state, detail, gone, report_to
FROM taken WHERE reported = 0 AND report_at <= ? ORDER BY report_at LIMIT ?`, now, reportBatch)
	if err != nil {
		return nil, time.Minute, err
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var list []dueReport
	for rows.Next() {
		var d dueReport
		if err := rows.Scan(&d.id, &d.Key, &d.Channel, &d.Address, &d.state, &d.detail, &d.gone, &d.reportTo); err != nil {
			return nil, time.Minute, err
		}
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
			failed[i] = b.report(ctx, d)
		})
	}
	all.Wait()
	if ctx.Err() != nil {
		return
	}
	err := b.together(func(tx *sql.Tx) error {
		for i, d := range due {
			query, value := `UPDATE taken SET reported = ? WHERE id = ?`, int64(1)
			if failed[i] != nil {
				b.Log.Warn("stand-ins: nobody took a report", "to", d.reportTo, "error", failed[i])
				query, value = `UPDATE taken SET report_at = ? WHERE id = ?`, b.Now().Add(reportAgain).UnixMilli()
			}
			if _, err := tx.Exec(query, value, d.id); err != nil {
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
	if d.Channel == roster.Email {
		return b.sendNotification(d, id)
	}
	if d.Channel == roster.Push {
		return b.post(ctx, d.reportTo, http.Header{}, []byte(`{"state":"`+string(d.state)+`"}`))
	}
	now := b.Now()
	body, err := json.Marshal(carrier.GatewayReport{Key: d.Key, State: d.state, Detail: d.detail, Gone: d.gone, At: now})
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
	defer resp.Body.Close() //nolint:errcheck // nothing is read
	if resp.StatusCode == http.StatusNotFound {
		return nil // the sender has forgotten the delivery; so shall we
	}
	if resp.StatusCode >= 300 {
		return fmt.Errorf("the report was answered %s", resp.Status)
	}
	return nil
}

func (b *Box) sendNotification(d dueReport, id string) error {
	c, err := smtp.Dial(b.ReturnMail)
	if err != nil {
		return err
	}
	defer c.Close() //nolint:errcheck // it was quit, or failed already
	if err := c.SendMail("", []string{d.reportTo}, strings.NewReader(notification(d.taking, id, b.Now()))); err != nil {
		return err
	}
	return c.Quit()
}
