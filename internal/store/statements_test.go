package store_test

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"modernc.org/sqlite"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
	"upperlantern/internal/testkit"
)

// statements counts what is asked of the database.
var statements atomic.Int64

// The driver is the usual one, and counts.
type (
	countingDriver struct{ *sqlite.Driver }
	countingConn   struct{ conn }
	countingStmt   struct{ driver.Stmt }
	conn           interface {
		driver.Conn
		driver.ConnPrepareContext
		driver.ConnBeginTx
		driver.ExecerContext
		driver.QueryerContext
		driver.Pinger
		driver.SessionResetter
	}
)

func (d countingDriver) Open(name string) (driver.Conn, error) {
	c, err := d.Driver.Open(name)
	if err != nil {
		return nil, err
	}
	return countingConn{c.(conn)}, nil
}

func (c countingConn) ExecContext(ctx context.Context, query string, args []driver.NamedValue) (driver.Result, error) {
	statements.Add(1)
	return c.conn.ExecContext(ctx, query, args)
}

func (c countingConn) QueryContext(ctx context.Context, query string, args []driver.NamedValue) (driver.Rows, error) {
	statements.Add(1)
	return c.conn.QueryContext(ctx, query, args)
}

func (c countingConn) PrepareContext(ctx context.Context, query string) (driver.Stmt, error) {
	s, err := c.conn.PrepareContext(ctx, query)
	return countingStmt{s}, err
}

func (s countingStmt) ExecContext(ctx context.Context, args []driver.NamedValue) (driver.Result, error) {
	statements.Add(1)
	return s.Stmt.(driver.StmtExecContext).ExecContext(ctx, args)
}

func (s countingStmt) QueryContext(ctx context.Context, args []driver.NamedValue) (driver.Rows, error) {
	statements.Add(1)
	return s.Stmt.(driver.StmtQueryContext).QueryContext(ctx, args)
}

// registerCounting makes the driver known, which can be done once.
var registerCounting = sync.OnceFunc(func() {
	usual, err := sql.Open("sqlite", ":memory:")
	if err != nil {
		panic(err)
	}
	defer usual.Close() //nolint:errcheck // it was never used
	sql.Register("counting", countingDriver{usual.Driver().(*sqlite.Driver)})
})

// Handing over and reporting cost few statements a delivery; a statement more for
// each would be felt with 100,000 of them.
func TestStatementsADelivery(t *testing.T) {
	registerCounting()
	folder := testkit.Folder(t, crowd(200), nil)
	store.UseDriver("counting")
	defer store.UseDriver("sqlite")
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	const n = 200
	released(t, s, toSome(roster.Routine, n, roster.Text))
	asked := func(do func()) float64 {
		before := statements.Load()
		do()
		return float64(statements.Load()-before) / n
	}
	var leased []store.Leased
	assert.Less(t, asked(func() { leased = lease(t, s, roster.Text, now, n) }), 0.1, "leasing")
	require.Len(t, leased, n)
	assert.Less(t, asked(func() { finish(t, s, takenBy(leased)...) }), 0.1, "what became of the hand-overs")
	reports := make([]delivery.Report, n)
	for i, one := range leased {
		reports[i] = delivery.Report{
			Via: delivery.ViaGateway, DeliveryKey: one.Key, Key: fmt.Sprint("r", i), State: delivery.Arrived,
			Detail: "on the phone", OccurredAt: now,
		}
	}
	taken := func() { require.NoError(t, s.TakeTogether(reports, now)) }
	assert.Less(t, asked(taken), 0.1, "reports that move deliveries")
	assert.Less(t, asked(taken), 0.1, "what is known already moves nothing")
	assert.Equal(t, n, headingOf(t, s, 1).Figures.Reached)
}
