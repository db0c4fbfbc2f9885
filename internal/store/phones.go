package store

import (
	"context"
	"time"

	"upperlantern/internal/core/desk"
	"upperlantern/internal/store/query"
)

// ToldMember is somebody who is told by text what comes in at a desk.
type ToldMember struct {
	Desk    desk.ID
	Account int64
	Login   string
}

// Told are those who are told by text, and still sit there.
func (s *Store) Told(ctx context.Context) ([]ToldMember, error) {
	rows, err := s.read().Told(ctx)
	list := make([]ToldMember, len(rows))
	for i, row := range rows {
		list[i] = ToldMember{Desk: desk.ID(row.DeskID), Account: row.ID, Login: row.Login}
	}
	return list, err
}

// SetTold keeps whether an account is told by text what comes in at a desk.
func (s *Store) SetTold(ctx context.Context, d desk.ID, account int64, on bool) error {
	return s.write(ctx, func(q *query.Queries) error {
		if on {
			return q.PutTold(ctx, query.PutToldParams{DeskID: int64(d), AccountID: account})
		}
		return q.DropTold(ctx, query.DropToldParams{DeskID: int64(d), AccountID: account})
	})
}

// Untold is a thread of which somebody is to be told.
type Untold struct {
	Thread, Entry int64
	Name, Said    string
}

// Untold are the threads of a desk of which a member is to be told at an instant, those
// that waited longest first.
func (s *Store) Untold(ctx context.Context, m ToldMember, now time.Time) ([]Untold, error) {
	rows, err := s.read().Untold(ctx, query.UntoldParams{
		AccountID: m.Account, DeskID: nullID(int64(m.Desk)), Since: millis(now.Add(-desk.CodeHolds)),
		Again: millis(now.Add(-desk.TellAgain)), Most: desk.MostTold,
	})
	list := make([]Untold, len(rows))
	for i, row := range rows {
		list[i] = Untold{Thread: row.ID, Entry: row.EntryID, Name: row.Name, Said: row.Said}
		if row.Copy != "" {
			list[i].Said = row.Copy
		}
	}
	return list, err
}

// Code keeps that an account is told of a thread now, and returns the code for it; 0 when
// it was told enough lately, or has no code left.
func (s *Store) Code(ctx context.Context, account int64, u Untold, now time.Time) (code int, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		rows, err := q.PhoneCodes(ctx, account)
		if err != nil {
			return err
		}
		used, lately := map[int]bool{}, 0
		for _, row := range rows {
			used[int(row.Code)] = now.Sub(at(row.ToldAt)) < desk.CodeHolds
			if now.Sub(at(row.ToldAt)) < desk.TellAgain {
				lately++
			}
			if row.ThreadID == u.Thread {
				code = int(row.Code)
			}
		}
		if lately >= desk.MostTold {
			code = 0
			return nil
		}
		if code == 0 {
			code = desk.FreeCode(used)
		}
		if code == 0 {
			return nil
		}
		return q.PutPhoneCode(ctx, query.PutPhoneCodeParams{
			AccountID: account, Code: int64(code), ThreadID: u.Thread, EntryID: u.Entry, ToldAt: millis(now),
		})
	})
	return code, err
}

// NotTold keeps that what an account was to be told of a thread did not leave: it is told
// again when that is due.
func (s *Store) NotTold(ctx context.Context, account, thread int64) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.NotTold(ctx, query.NotToldParams{AccountID: account, ThreadID: thread})
	})
}

// ThreadOfCode is the thread for which a code of an account stands since an instant, or
// ErrNotFound.
func (s *Store) ThreadOfCode(ctx context.Context, account int64, code int, since time.Time) (int64, error) {
	id, err := s.read().ThreadOfCode(ctx, query.ThreadOfCodeParams{
		AccountID: account, Code: int64(code), Since: millis(since),
	})
	return id, found(err)
}
