package store

import (
	"context"
	"database/sql"
	"fmt"
	"strconv"
	"strings"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/seek"
	"upperlantern/internal/store/query"
)

// foundAs is the version of how messages are found: those found in another way are
// taken up when the program starts.
const foundAs = 1

// keepWords keeps what a message says to be found, with its copies.
func keepWords(ctx context.Context, q *query.Queries, tx *sql.Tx, id int64, d message.Draft) error {
	targets, err := q.TargetsOf(ctx, id)
	if err != nil {
		return err
	}
	words := seek.Indexed(d.Words() + "\n" + strings.Join(targets, "\n"))
	// sqlc does not know the rowid of a table of words.
	if _, err := tx.ExecContext(ctx, `DELETE FROM message_words WHERE rowid = ?`, id); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO message_words (rowid, words) VALUES (?, ?)`, id, words); err != nil {
		return fmt.Errorf("keeping the words of message %d: %w", id, err)
	}
	return q.SetFoundAs(ctx, query.SetFoundAsParams{ID: id, FoundAs: foundAs})
}

// keepFacts keeps by what a sent message is found besides its words. Unit is the one
// that writes; 0 is none.
func keepFacts(
	ctx context.Context, q *query.Queries, id int64, a audience.Audience, channels []roster.Channel, unit roster.UnitID,
) error {
	add := func(kind, value string) error {
		return q.AddFact(ctx, query.AddFactParams{Kind: kind, Value: value, MessageID: id})
	}
	for _, c := range channels {
		if err := add("channel", string(c)); err != nil {
			return err
		}
	}
	for _, p := range a.Parts {
		if p.Kind != audience.ByGroup || p.LeaveOut {
			continue
		}
		if err := add("group", strconv.FormatInt(int64(p.Group), 10)); err != nil {
			return err
		}
	}
	if unit == 0 {
		return nil
	}
	return add("unit", strconv.FormatInt(int64(unit), 10))
}

// channelsOf are those that deliveries of a plan go by.
func channelsOf(list []plan.Delivery) []roster.Channel {
	var channels []roster.Channel
	for _, c := range roster.Channels {
		for _, d := range list {
			if d.Channel == c {
				channels = append(channels, c)
				break
			}
		}
	}
	return channels
}

// FindAll takes up messages that are not found yet as this version finds them, some at
// a time.
func (s *Store) FindAll(ctx context.Context) error {
	for {
		ids, err := s.read().Unfound(ctx)
		if err != nil || len(ids) == 0 {
			return err
		}
		err = s.writeRows(ctx, func(q *query.Queries, tx *sql.Tx) error {
			for _, id := range ids {
				if err := find(ctx, q, tx, id); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
}

// find keeps by what a message of an earlier form is found. Which unit wrote is known
// of those whose account reached one alone.
func find(ctx context.Context, q *query.Queries, tx *sql.Tx, id int64) error {
	text, err := q.DraftOf(ctx, id)
	if err != nil {
		return err
	}
	var d message.Draft
	if err := draftForm.read(text, &d); err != nil {
		return fmt.Errorf("reading message %d: %w", id, err)
	}
	channels, err := q.ChannelsOf(ctx, id)
	if err != nil {
		return err
	}
	var unit roster.UnitID
	if kept, err := q.Sending(ctx, id); err == nil {
		fixed, err := fixedOf(kept)
		if err != nil {
			return err
		}
		if !fixed.Reach.Whole {
			unit = fixed.Reach.Pays()
		}
	}
	if len(channels) > 0 {
		if err := keepFacts(ctx, q, id, d.Audience, channels, unit); err != nil {
			return err
		}
	}
	return keepWords(ctx, q, tx, id, d)
}
