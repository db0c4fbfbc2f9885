// Package standin is the other end of the carriers' protocols: a mail server,
// a text and a voice gateway, a push service, and the mailboxes, handsets and
// devices behind them. It
// ships with the program so that everything can be tried without anybody
// being written to.
//
// What it took and still has to report is kept in a file of its own: like
// real carriers, it forgets nothing when the program that uses it is killed.
package standin

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	_ "modernc.org/sqlite" // the database/sql driver

	"upperlantern/internal/batch"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
)

// Fault makes one address behave badly.
type Fault string

const (
	Gone     Fault = "gone"      // there is no such mailbox, number or device
	Full     Fault = "full"      // the mailbox is full, the phone or the device is switched off
	NoAnswer Fault = "no-answer" // nobody picks up
	Machine  Fault = "machine"   // an answering machine picks up
)

// Faults lists every fault.
var Faults = []Fault{Gone, Full, NoAnswer, Machine}

// Options are how the stand-ins behave.
type Options struct {
	ReturnMail string // host:port of the SMTP server that takes mail back
	Incoming   string // URL to which is posted what is sent to our numbers
	Token      string // which gateways ask for
	Secret     string // with which reports are signed
	// Delay is how long after taking something it is reported on.
	Delay func() time.Duration
	Now   func() time.Time
	Log   *slog.Logger
}

// Box holds what every mailbox and handset received.
type Box struct {
	Options
	db     *sql.DB
	client *http.Client
	wake   chan struct{}

	takings batch.Group[taking]

	mu      sync.Mutex
	weather Weather
	down    map[roster.Channel]time.Time // until when
	faults  map[string]Fault             // by address
	rooms   map[roster.Channel]room
}

// mostTogether is how many items are kept in one transaction.
const mostTogether = 100

const schema = `
CREATE TABLE IF NOT EXISTS taken (
    id          INTEGER PRIMARY KEY,
    key         TEXT    NOT NULL,
    channel     TEXT    NOT NULL,
    address     TEXT    NOT NULL,
    sender      TEXT    NOT NULL,
    reply_to    TEXT    NOT NULL,
    subject     TEXT    NOT NULL,
    body        TEXT    NOT NULL,
    html        TEXT    NOT NULL,
    files       TEXT    NOT NULL, -- JSON
    offers      TEXT    NOT NULL,
    one_click   TEXT    NOT NULL DEFAULT '',
    confirm     TEXT    NOT NULL DEFAULT '', -- the key of a call that confirms it
    pressed     TEXT    NOT NULL DEFAULT '', -- the key that was pressed afterwards
    choices     TEXT    NOT NULL DEFAULT '[]', -- JSON: the answers to press
    answer      TEXT    NOT NULL DEFAULT '', -- the page that takes them
    taken_at    INTEGER NOT NULL, -- Unix milliseconds
    times       INTEGER NOT NULL DEFAULT 1, -- how often it was handed over
    state       TEXT    NOT NULL, -- what is reported
    detail      TEXT    NOT NULL,
    gone        INTEGER NOT NULL,
    report_to   TEXT    NOT NULL, -- a URL or a mailbox, '' when nobody asked
    report_at   INTEGER NOT NULL,
    reported    INTEGER NOT NULL DEFAULT 0,
    UNIQUE (key, address)
);
CREATE INDEX IF NOT EXISTS taken_address ON taken (address);
CREATE INDEX IF NOT EXISTS taken_report ON taken (report_at) WHERE reported = 0;
CREATE TABLE IF NOT EXISTS faults (address TEXT PRIMARY KEY, fault TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS files (hash TEXT PRIMARY KEY, content BLOB NOT NULL);
CREATE TABLE IF NOT EXISTS outages (channel TEXT PRIMARY KEY, until INTEGER NOT NULL); -- Unix milliseconds
CREATE TABLE IF NOT EXISTS world (id INTEGER PRIMARY KEY CHECK (id = 1), weather TEXT NOT NULL, seed INTEGER NOT NULL);`

// FileName is the file of the stand-ins in the data folder.
const FileName = "stand-ins.db"

// Open opens the stand-ins' file in a folder, making both if need be.
func Open(folder string, o Options) (*Box, error) {
	if err := os.MkdirAll(folder, 0o750); err != nil {
		return nil, fmt.Errorf("stand-ins: %w", err)
	}
	db, err := sql.Open("sqlite", "file:"+filepath.Join(folder, FileName)+
		"?_pragma=journal_mode(WAL)&_pragma=busy_timeout(10000)&_pragma=synchronous(NORMAL)&_txlock=immediate")
	if err != nil {
		return nil, fmt.Errorf("stand-ins: %w", err)
	}
	db.SetMaxOpenConns(1)
	_, err = db.Exec(schema)
	if err == nil {
		err = widen(db)
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("stand-ins: %w", err), db.Close())
	}
	transport := http.DefaultTransport.(*http.Transport).Clone()
	transport.MaxIdleConnsPerHost = reportsAtOne
	b := &Box{
		Options: o, db: db, client: &http.Client{Timeout: 10 * time.Second, Transport: transport},
		wake: make(chan struct{}, 1), down: map[roster.Channel]time.Time{}, faults: map[string]Fault{},
		rooms: map[roster.Channel]room{},
	}
	b.takings = batch.Group[taking]{Do: b.keep, Most: mostTogether}
	if err := errors.Join(b.loadFaults(), b.loadWorld()); err != nil {
		return nil, errors.Join(fmt.Errorf("stand-ins: %w", err), db.Close())
	}
	return b, nil
}

func (b *Box) loadFaults() error {
	rows, err := b.db.Query(`SELECT address, fault FROM faults`)
	if err != nil {
		return err
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	for rows.Next() {
		var address string
		var f Fault
		if err := rows.Scan(&address, &f); err != nil {
			return err
		}
		b.faults[address] = f
	}
	return rows.Err()
}

// widen adds the columns that a file made by an earlier version lacks.
func widen(db *sql.DB) error {
	for column, otherwise := range map[string]string{
		"reply_to": "", "html": "", "files": "[]", "offers": "", "confirm": "", "pressed": "", "one_click": "",
		"choices": "[]", "answer": "",
	} {
		var has bool
		err := db.QueryRow(`SELECT EXISTS (SELECT 1 FROM pragma_table_info('taken') WHERE name = ?)`, column).Scan(&has)
		if err == nil && !has {
			_, err = db.Exec(`ALTER TABLE taken ADD COLUMN ` + column + ` TEXT NOT NULL DEFAULT '` + otherwise + `'`)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// Close ends the use of the file.
func (b *Box) Close() error { return b.db.Close() }

// SetFault makes an address behave badly, or well again with "".
func (b *Box) SetFault(ctx context.Context, address string, f Fault) error {
	if f != "" && !slices.Contains(Faults, f) {
		return ErrUnknown
	}
	var err error
	if f == "" {
		_, err = b.db.ExecContext(ctx, `DELETE FROM faults WHERE address = ?`, address)
	} else {
		_, err = b.db.ExecContext(
			ctx, `INSERT INTO faults VALUES (?, ?) ON CONFLICT DO UPDATE SET fault = excluded.fault`, address, f,
		)
	}
	if err == nil {
		b.mu.Lock()
		b.faults[address] = f
		b.mu.Unlock()
	}
	return err
}

// FaultsOf are the faults that addresses have of their own.
func (b *Box) FaultsOf(addresses []string) map[string]Fault {
	b.mu.Lock()
	defer b.mu.Unlock()
	list := map[string]Fault{}
	for _, a := range addresses {
		if f := b.faults[a]; f != "" {
			list[a] = f
		}
	}
	return list
}

// Item is something that a mailbox or a handset received.
type Item struct {
	Key      string         `json:"key"`
	Channel  roster.Channel `json:"channel"`
	Address  string         `json:"address"`
	From     string         `json:"from"`
	ReplyTo  string         `json:"replyTo,omitempty" doc:"Of an email, if it is not the sender"`
	Subject  string         `json:"subject"`
	Body     string         `json:"body"`
	HTML     string         `json:"html,omitempty" doc:"Of a formatted email"`
	Files    []ItemFile     `json:"files,omitempty"`
	OneClick string         `json:"oneClick,omitempty" doc:"Where an email of its kind is ended with one click"`
	Offers   string         `json:"offers,omitempty" doc:"What a call or a push does besides its words"`
	Confirm  string         `json:"confirm,omitempty" doc:"The key of a call that confirms it, while nobody pressed it"`
	Choices  []Button       `json:"choices,omitempty" doc:"The answers that can be pressed"`
	Answer   string         `json:"answer,omitempty" doc:"The page that takes them"`
	At       time.Time      `json:"at"`
	Times    int            `json:"times" doc:"How often it was handed over; it shows once"`
}

// Button is an answer that can be pressed.
type Button struct {
	Key   string `json:"key"`
	Words string `json:"words" doc:"Empty for a key of a call"`
}

// ItemFile is a file that came with an email.
type ItemFile struct {
	Name  string `json:"name"`
	Type  string `json:"type"`
	Size  int    `json:"size"`
	Shown bool   `json:"shown" doc:"It is shown within the email"`
	Hash  string `json:"hash,omitempty" doc:"Of its content, by which it is opened"`

	content []byte
}

// Received lists what the addresses received, newest first.
func (b *Box) Received(ctx context.Context, addresses []string) ([]Item, error) {
	if len(addresses) == 0 {
		return nil, nil
	}
	marks := strings.TrimSuffix(strings.Repeat("?,", len(addresses)), ",")
	values := make([]any, len(addresses))
	for i, a := range addresses {
		values[i] = a
	}
	return b.items(
		ctx, `WHERE address IN (`+marks+`) AND state NOT IN ('failed', 'expired') ORDER BY taken_at DESC, id DESC`, values...,
	)
}

// All lists everything that was taken, delivered or not, oldest first.
func (b *Box) All(ctx context.Context) ([]Item, error) { return b.items(ctx, `ORDER BY id`) }

func (b *Box) items(ctx context.Context, where string, values ...any) ([]Item, error) {
	rows, err := b.db.QueryContext(
		ctx,
		`SELECT key, channel, address, sender, reply_to, subject, body, html, files, offers, one_click,
			CASE WHEN state = 'answered' THEN '' ELSE confirm END,
			CASE WHEN state = 'answered' THEN '[]' ELSE choices END, answer, taken_at, times FROM taken `+where,
		values...,
	)
	if err != nil {
		return nil, err
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var list []Item
	for rows.Next() {
		var i Item
		var ms int64
		var files, choices []byte
		if err := rows.Scan(
			&i.Key, &i.Channel, &i.Address, &i.From, &i.ReplyTo, &i.Subject, &i.Body, &i.HTML, &files, &i.Offers, &i.OneClick,
			&i.Confirm, &choices, &i.Answer,
			&ms, &i.Times,
		); err != nil {
			return nil, err
		}
		if err := errors.Join(json.Unmarshal(files, &i.Files), json.Unmarshal(choices, &i.Choices)); err != nil {
			return nil, fmt.Errorf("the files and answers of an item: %w", err)
		}
		i.At = time.UnixMilli(ms).UTC()
		list = append(list, i)
	}
	return list, rows.Err()
}

// taking is something that was accepted, with what will be reported about it.
type taking struct {
	Item
	state    delivery.State
	detail   string
	gone     bool
	reportTo string
}

// take keeps an accepted item. One that was taken before under the same key is
// counted and otherwise ignored.
func (b *Box) take(t taking) error {
	if err := b.takings.Add(t); err != nil {
		return err
	}
	b.rouse()
	return nil
}

// rouse lets reports be looked for at once.
func (b *Box) rouse() {
	select {
	case b.wake <- struct{}{}:
	default:
	}
}

func (b *Box) keep(some []taking) error {
	now := b.Now()
	return b.together(func(tx *sql.Tx) error {
		insert, err := tx.Prepare(`
INSERT INTO taken (key, channel, address, sender, reply_to, subject, body, html, files, offers, one_click, confirm,
    choices, answer, taken_at,
    state, detail, gone, report_to, report_at, reported)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
ON CONFLICT (key, address) DO UPDATE SET times = times + 1`)
		if err != nil {
			return err
		}
		for _, t := range some {
			files, err := json.Marshal(t.Files)
			if err != nil {
				return err
			}
			choices, err := json.Marshal(slices.Concat([]Button{}, t.Choices))
			if err != nil {
				return err
			}
			if err := keepFiles(tx, t.Files); err != nil {
				return err
			}
			_, err = insert.Exec(
				t.Key, t.Channel, t.Address, t.From, t.ReplyTo, t.Subject, t.Body, t.HTML, string(files), t.Offers, t.OneClick,
				t.Confirm, string(choices), t.Answer,
				now.UnixMilli(), t.state, t.detail, t.gone, t.reportTo, now.Add(b.delay(t.Item)).UnixMilli(), t.reportTo == "")
			if err != nil {
				return err
			}
		}
		return nil
	})
}

func keepFiles(tx *sql.Tx, files []ItemFile) error {
	for _, f := range files {
		if _, err := tx.Exec(`INSERT OR IGNORE INTO files VALUES (?, ?)`, f.Hash, f.content); err != nil {
			return err
		}
	}
	return nil
}

// ErrGone means that something was not received, or that there is nothing to press.
var ErrGone = errors.New("this was not received")

// File is the content of a file that came to one of some addresses, by its hash.
func (b *Box) File(ctx context.Context, addresses []string, hash string) (ItemFile, []byte, error) {
	items, err := b.Received(ctx, addresses)
	if err != nil {
		return ItemFile{}, nil, err
	}
	for _, i := range items {
		for _, f := range i.Files {
			if f.Hash != hash || hash == "" {
				continue
			}
			var content []byte
			err := b.db.QueryRowContext(ctx, `SELECT content FROM files WHERE hash = ?`, hash).Scan(&content)
			return f, content, err
		}
	}
	return ItemFile{}, nil, ErrGone
}

// Press presses a key of a call, which the gateway reports, or an answer of an email or
// a push, which its page takes.
func (b *Box) Press(ctx context.Context, addresses []string, key, pressed string) error {
	items, err := b.Received(ctx, addresses)
	if err != nil {
		return err
	}
	chooses := func(i Item) bool {
		return slices.ContainsFunc(i.Choices, func(c Button) bool { return c.Key == pressed })
	}
	at := slices.IndexFunc(items, func(i Item) bool {
		return i.Key == key && (i.Confirm != "" && i.Confirm == pressed || chooses(i))
	})
	if at < 0 {
		return ErrGone
	}
	item := items[at]
	if item.Channel != roster.Voice {
		return b.choose(ctx, item.Answer, pressed)
	}
	detail := "heard, and confirmed with key " + pressed
	if item.Confirm != pressed {
		detail = "heard, and pressed key " + pressed
	}
	_, err = b.db.ExecContext(ctx, `UPDATE taken SET state = ?, detail = ?, pressed = ?, reported = report_to = '', report_at = ?
WHERE key = ? AND address = ?`, delivery.Answered, detail, pressed, b.Now().UnixMilli(), key, item.Address)
	if err == nil {
		b.rouse()
	}
	return err
}

// choose sends the page of a question what was pressed, as a browser does.
func (b *Box) choose(ctx context.Context, page, pressed string) error {
	form := strings.NewReader(url.Values{"say": {pressed}}.Encode())
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, page, form)
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	resp, err := b.client.Do(req)
	if err != nil {
		return err
	}
	defer resp.Body.Close() //nolint:errcheck // nothing is read
	if resp.StatusCode != http.StatusOK {
		return fmt.Errorf("the page answered %s", resp.Status)
	}
	return nil
}

// together does something in one transaction.
func (b *Box) together(do func(*sql.Tx) error) error {
	tx, err := b.db.Begin()
	if err != nil {
		return err
	}
	if err := do(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
}
