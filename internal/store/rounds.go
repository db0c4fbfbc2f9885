package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// ThreadPerson is what is kept of somebody in a thread with many.
type ThreadPerson struct {
	Person roster.PersonID
	Chosen bool      // at the desk
	Told   time.Time // that all in it see what is said; zero for never
	Left   time.Time // the thread, by the word for it; zero for never
}

// PeopleOfThread is what is kept of the people of a thread with many.
func (s *Store) PeopleOfThread(ctx context.Context, thread int64) ([]ThreadPerson, error) {
	rows, err := s.read().PeopleOfThread(ctx, thread)
	list := make([]ThreadPerson, len(rows))
	for i, row := range rows {
		list[i] = ThreadPerson{roster.PersonID(row.PersonID), row.Chosen, at(row.ToldAt), at(row.LeftAt)}
	}
	return list, err
}

// OpenMany finds the thread of a desk with a group, an area, everybody or a job, or makes
// it; with chosen people it always makes one.
func (s *Store) OpenMany(ctx context.Context, t Thread, people []roster.PersonID, now time.Time) (id int64, err error) {
	err = s.write(ctx, func(q *query.Queries) error {
		if t.With != desk.Chosen {
			id, err = q.ManyThread(ctx, query.ManyThreadParams{
				DeskID: nullID(int64(t.Desk)), Kind: t.With, GroupID: int64(t.Group), UnitID: int64(t.Unit),
			})
			if !errors.Is(err, sql.ErrNoRows) {
				return err
			}
		}
		id, err = q.AddManyThread(ctx, query.AddManyThreadParams{
			DeskID: nullID(int64(t.Desk)), Kind: t.With, GroupID: nullID(int64(t.Group)), UnitID: nullID(int64(t.Unit)),
			Name: t.Name, Named: t.Named, Now: millis(now),
		})
		if err != nil {
			return err
		}
		return choose(ctx, q, id, people)
	})
	return id, err
}

// RenameThread gives a thread with many a name; named says that somebody did.
func (s *Store) RenameThread(ctx context.Context, id int64, name string, named bool) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.RenameThread(ctx, query.RenameThreadParams{ID: id, Name: name, Named: named})
	})
}

// ChooseForThread says who is in a thread with chosen people, and how it is called.
func (s *Store) ChooseForThread(
	ctx context.Context, id int64, people []roster.PersonID, name string, named bool,
) error {
	return s.write(ctx, func(q *query.Queries) error {
		return errors.Join(choose(ctx, q, id, people), q.RenameThread(ctx, query.RenameThreadParams{
			ID: id, Name: name, Named: named,
		}))
	})
}

func choose(ctx context.Context, q *query.Queries, id int64, people []roster.PersonID) error {
	err := q.UnchooseForThread(ctx, query.UnchooseForThreadParams{ThreadID: id, People: idsText(people)})
	for _, p := range people {
		err = errors.Join(err, q.ChooseForThread(ctx, query.ChooseForThreadParams{ThreadID: id, PersonID: int64(p)}))
	}
	return err
}

// DropThread removes a thread with all that was said in it.
func (s *Store) DropThread(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error { return q.DropThread(ctx, id) })
}

// LeaveThreadFor keeps that somebody left a thread with many by the word for it.
func (s *Store) LeaveThreadFor(ctx context.Context, id int64, p roster.PersonID, now time.Time) error {
	return s.write(ctx, func(q *query.Queries) error {
		return q.LeaveThreadFor(ctx, query.LeaveThreadForParams{ThreadID: id, PersonID: int64(p), Now: millis(now)})
	})
}

// PassedSince is when things that somebody said in a thread were passed on, since an
// instant.
func (s *Store) PassedSince(
	ctx context.Context, thread int64, p roster.PersonID, since time.Time,
) ([]time.Time, error) {
	rows, err := s.read().PassedOfPerson(ctx, query.PassedOfPersonParams{
		ThreadID: thread, PersonID: nullID(int64(p)), Since: millis(since),
	})
	list := make([]time.Time, len(rows))
	for i, row := range rows {
		list[i] = at(row)
	}
	return list, err
}

// EntryToPass is the entry with a source, and as which message it was passed on; 0 when it
// was not.
func (s *Store) EntryToPass(ctx context.Context, source string) (entry, passed int64, err error) {
	row, err := s.read().EntryToPass(ctx, sql.NullString{String: source, Valid: true})
	return row.ID, row.PassedID.Int64, found(err)
}

// Sharing is what a round changes about who sees what is said in its thread.
type Sharing string

const (
	AsItWas   Sharing = ""
	NowShared Sharing = "shared" // its recipients are told that all see what is said
	NowAlone  Sharing = "alone"  // nobody but the desk does any more
)

// Round is what is sent to many in a thread.
type Round struct {
	Thread  int64
	By      int64
	Roster  *roster.Roster
	Plan    *plan.Plan
	Entry   Entry // that stands in the thread, unless it passes one on
	Passes  int64 // the entry that it passes on; 0 for none
	Sharing Sharing
	Leaves  time.Time
}

// SendRound keeps what is sent to many in a thread, as a message with a plan that stands
// in no list of messages. Its plan is written in chunks before it counts; what is there of
// it when that does not come to pass is cleared. What was sent before, by its source or as
// what it passes on, is ErrConflict.
func (s *Store) SendRound(ctx context.Context, r Round, now time.Time) (id int64, err error) {
	draft, err := draftForm.write(r.Plan.Draft)
	if err != nil {
		return 0, err
	}
	err = s.write(ctx, func(q *query.Queries) error {
		if id, err = q.NextMessageID(ctx); err != nil {
			return err
		}
		s.writing.Store(id, true)
		return q.AddRound(ctx, query.AddRoundParams{
			ID: id, AccountID: r.By, Title: r.Plan.Draft.Title(), Urgency: r.Plan.Draft.Urgency, Draft: draft, Now: millis(now),
		})
	})
	defer s.writing.Delete(id)
	if err != nil {
		return 0, err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, s.dropRound(context.WithoutCancel(ctx), id))
		}
	}()
	figures, err := s.writePlan(ctx, id, r.Roster, r.Plan, now)
	if err != nil {
		return 0, fmt.Errorf("keeping whom it goes to: %w", err)
	}
	m, err := s.Heading(ctx, id)
	if err != nil {
		return 0, err
	}
	return id, s.write(ctx, func(q *query.Queries) error {
		if err := r.enter(ctx, q, id, now); err != nil {
			return err
		}
		n, err := q.HoldMessage(ctx, query.HoldMessageParams{
			ID: id, Revision: m.Revision, SentBy: nullID(r.By), SentAt: millis(now), LeavesAt: millis(r.Leaves),
			Currency: r.Plan.Settings.Currency,
		})
		if err == nil && n == 0 {
			err = errors.New("its plan was cleared")
		}
		if err != nil {
			return fmt.Errorf("holding what goes to many: %w", err)
		}
		return errors.Join(keepSending(ctx, q, id, r.Plan.Settings), addFigures(ctx, q, id, figures))
	})
}

// enter writes a round into its thread.
func (r Round) enter(ctx context.Context, q *query.Queries, id int64, now time.Time) error {
	if r.Passes != 0 {
		n, err := q.PassEntry(ctx, query.PassEntryParams{ID: r.Passes, PassedID: nullID(id)})
		if err != nil || n == 0 {
			return errors.Join(err, ErrConflict)
		}
		return nil
	}
	if r.Entry.Source != "" {
		_, err := q.EntryBySource(ctx, sql.NullString{String: r.Entry.Source, Valid: true})
		if err == nil {
			return ErrConflict
		}
		if !errors.Is(err, sql.ErrNoRows) {
			return err
		}
	}
	r.Entry.Message = id
	if _, err := addEntry(ctx, q, r.Thread, r.Entry); err != nil {
		return err
	}
	if err := told(ctx, q, r.Thread, r.Entry); err != nil {
		return err
	}
	switch r.Sharing {
	case NowShared:
		return errors.Join(
			q.ShareThread(ctx, query.ShareThreadParams{ID: r.Thread, Shared: true}),
			q.TellInThread(ctx, query.TellInThreadParams{ThreadID: r.Thread, MessageID: id, Now: millis(now)}),
		)
	case NowAlone:
		return unshare(ctx, q, r.Thread)
	}
	return nil
}

func unshare(ctx context.Context, q *query.Queries, thread int64) error {
	return errors.Join(q.ShareThread(ctx, query.ShareThreadParams{ID: thread}), q.UntellThread(ctx, thread))
}

// UnshareThread ends that all in a thread see what is said, where nobody has to be told.
func (s *Store) UnshareThread(ctx context.Context, thread int64) error {
	return s.write(ctx, func(q *query.Queries) error { return unshare(ctx, q, thread) })
}

// clearRounds removes what an earlier process did not write to its end, but nothing that
// this one is just writing.
func (s *Store) clearRounds(ctx context.Context) error {
	ids, err := s.read().UnfinishedRounds(ctx)
	if err != nil {
		return err
	}
	for _, id := range ids {
		if err := s.clearUnheld(ctx, id); err != nil {
			return fmt.Errorf("clearing what was to go to many, %d: %w", id, err)
		}
	}
	return nil
}

// clearUnheld removes a round, unless this process is just writing it, or has held it.
func (s *Store) clearUnheld(ctx context.Context, id int64) error {
	if _, busy := s.writing.LoadOrStore(id, true); busy {
		return nil
	}
	defer s.writing.Delete(id)
	m, err := s.Heading(ctx, id)
	if errors.Is(err, ErrNotFound) || err == nil && m.State != Draft {
		return nil
	}
	if err != nil {
		return err
	}
	return s.dropRound(ctx, id)
}

func (s *Store) dropRound(ctx context.Context, id int64) error {
	if err := s.clearPlan(ctx, id); err != nil {
		return err
	}
	return s.write(ctx, func(q *query.Queries) error { return q.DropRound(ctx, id) })
}
