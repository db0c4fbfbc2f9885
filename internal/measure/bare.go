package measure

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"upperlantern/internal/batch"
	"upperlantern/internal/carrier"
	"upperlantern/internal/core/delivery"
)

// reportSecret is that with which the peer signs reports.
const reportSecret = "bench"

const (
	bareWorkers = 64
	bareBatch   = 200
)

// newPeer is a gateway that takes everything and only answers.
func newPeer() *httptest.Server {
	return httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		_, _ = io.Copy(io.Discard, r.Body)
		w.Header().Set("Content-Type", "application/json")
		w.WriteHeader(http.StatusAccepted)
		_, _ = io.WriteString(w, `{"id":"taken"}`)
	}))
}

// client keeps a connection open for each worker.
func client() *http.Client {
	transport := http.DefaultTransport.(*http.Transport).Clone()
	transport.MaxIdleConnsPerHost = bareWorkers
	return &http.Client{Transport: transport}
}

// atOnce does something for each member of a list, by several workers.
func atOnce[T any](list []T, do func(T) error) error {
	work, failed := make(chan T), make(chan error, bareWorkers)
	var all sync.WaitGroup
	for range bareWorkers {
		all.Go(func() {
			var first error
			for one := range work {
				if first == nil {
					first = do(one)
				}
			}
			failed <- first
		})
	}
	for _, one := range list {
		work <- one
	}
	close(work)
	all.Wait()
	close(failed)
	for err := range failed {
		if err != nil {
			return err
		}
	}
	return nil
}

func (b *bench) bareDatabase(name, schema string) (*sql.DB, error) {
	db, err := sql.Open(
		"sqlite", "file:"+filepath.Join(b.folder, name)+"?_pragma=journal_mode(WAL)&_pragma=synchronous(NORMAL)",
	)
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(1)
	_, err = db.Exec(schema)
	return db, err
}

// bareHandOver posts the same requests and writes a row for each, some to a
// transaction.
func (b *bench) bareHandOver(ctx context.Context, url string, texts []string) (time.Duration, error) {
	db, err := b.bareDatabase("bare-texts.db", `CREATE TABLE bare (id INTEGER PRIMARY KEY, body TEXT, state TEXT)`)
	if err != nil {
		return 0, err
	}
	defer db.Close() //nolint:errcheck // the folder goes away
	c := client()
	began := time.Now()
	for some := range slices.Chunk(texts, bareBatch) {
		if err := atOnce(some, func(text string) error { return postText(ctx, c, url, text) }); err != nil {
			return 0, err
		}
		if err := writeAll(ctx, db, `INSERT INTO bare (body, state) VALUES (?, 'carrier')`, some); err != nil {
			return 0, err
		}
	}
	return time.Since(began), nil
}

func writeAll(ctx context.Context, db *sql.DB, statement string, values []string) error {
	tx, err := db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // it was committed
	prepared, err := tx.PrepareContext(ctx, statement)
	if err != nil {
		return err
	}
	for _, value := range values {
		if _, err := prepared.ExecContext(ctx, value); err != nil {
			return err
		}
	}
	return tx.Commit()
}

func postText(ctx context.Context, c *http.Client, url, text string) error {
	body, err := json.Marshal(carrier.GatewayRequest{To: "+447700900123", From: "+447700900100", Text: text})
	if err != nil {
		return err
	}
	return post(ctx, c, url, body, func(http.Header) {})
}

func post(ctx context.Context, c *http.Client, url string, body []byte, head func(http.Header)) error {
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, url, bytes.NewReader(body))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	head(req.Header)
	return do(c, req)
}

func get(ctx context.Context, c *http.Client, url string) error {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, url, nil)
	if err != nil {
		return err
	}
	return do(c, req)
}

func do(c *http.Client, req *http.Request) error {
	resp, err := c.Do(req)
	if err != nil {
		return err
	}
	_, _ = io.Copy(io.Discard, resp.Body)
	if resp.StatusCode >= http.StatusMultipleChoices {
		return fmt.Errorf("%s answered %s", req.URL, resp.Status)
	}
	return resp.Body.Close()
}

// postReports posts a signed report for each key.
func postReports(ctx context.Context, url string, keys []string) error {
	c := client()
	return atOnce(keys, func(key string) error {
		now := time.Now()
		body, err := json.Marshal(carrier.GatewayReport{Key: key, State: delivery.Arrived, Detail: "on the phone", At: now})
		if err != nil {
			return err
		}
		return post(ctx, c, url, body, func(h http.Header) { carrier.Sign(h, reportSecret, "r"+key, now, body) })
	})
}

// bareReports takes the same signed posts and updates a row for each, those
// together that come together.
func (b *bench) bareReports(ctx context.Context, keys []string) (time.Duration, error) {
	db, err := b.bareDatabase("bare-reports.db", `CREATE TABLE bare (key TEXT PRIMARY KEY, state TEXT)`)
	if err != nil {
		return 0, err
	}
	defer db.Close() //nolint:errcheck // the folder goes away
	if err := writeAll(ctx, db, `INSERT INTO bare (key, state) VALUES (?, 'carrier')`, keys); err != nil {
		return 0, err
	}
	rows := batch.Group[string]{Most: bareBatch, Do: func(some []string) error {
		return writeAll(ctx, db, `UPDATE bare SET state = 'arrived' WHERE key = ?`, some)
	}}
	taken := func(_ context.Context, r delivery.Report) error { return rows.Add(r.DeliveryKey) }
	secrets := func() []string { return []string{reportSecret} }
	server := httptest.NewServer(carrier.Reports(secrets, taken, context.Canceled, time.Now))
	defer server.Close()
	began := time.Now()
	err = postReports(ctx, server.URL, keys)
	return time.Since(began), err
}
