package sending

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/store"
)

// longestWait is how long a draft waits for its readings at most.
const longestWait = 30 * 24 * time.Hour

// Await lets a draft that was checked wait for its readings until a time; see Send.
func (d *Service) Await(
	ctx context.Context, id, revision int64, checked Checked, until time.Time, by access.Principal,
) error {
	m, err := d.draft(ctx, id, revision, by)
	if err != nil {
		return err
	}
	w, err := d.ready(ctx, m, checked, by)
	if err != nil {
		return err
	}
	if err := checked.confirmed(w, false); err != nil {
		return err
	}
	now := d.Now()
	if !until.After(now) || until.Sub(now) > longestWait {
		return fmt.Errorf("%w: choose a time within the next 30 days until which it waits", ErrBlocked)
	}
	readings, err := d.Store.Readings(ctx, id)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(readings, func(r store.Reading) bool { return r.Open(now) }) {
		return fmt.Errorf("%w: it has no reading to wait for, so send it", ErrBlocked)
	}
	err = d.Store.Await(ctx, store.Awaiting{
		Message: id, Revision: revision, Account: by.ID, Recipients: w.Summary.Recipients, Until: until,
	})
	if err == nil {
		d.Held(id)
	}
	return err
}

// Awaited is how a draft waits for its readings; store.ErrNotFound when it does not.
func (d *Service) Awaited(ctx context.Context, id int64, by access.Principal) (store.Awaiting, error) {
	if _, err := d.Messages.Heading(ctx, by, id); err != nil {
		return store.Awaiting{}, err
	}
	return d.Store.Awaited(ctx, id)
}

// StopAwaiting lets a draft wait no longer.
func (d *Service) StopAwaiting(ctx context.Context, id int64, by access.Principal) error {
	if _, err := d.Messages.Heading(ctx, by, id); err != nil {
		return err
	}
	if err := d.Store.StopAwaiting(ctx, id); err != nil {
		return err
	}
	d.Held(id)
	return nil
}

// SendAwaited sends the drafts whose wait is over. One that cannot be sent stays, with
// the reason; what fails for one does not keep the others.
func (d *Service) SendAwaited(ctx context.Context) error {
	due, err := d.Store.AwaitedNow(ctx, d.Now())
	for _, a := range due {
		if failed := d.sendAwaited(ctx, a); failed != nil {
			err = errors.Join(err, fmt.Errorf("sending message %d, which waited: %w", a.Message, failed))
		}
	}
	return err
}

func (d *Service) sendAwaited(ctx context.Context, a store.Awaiting) error {
	o, err := d.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	if late := d.Now().Sub(a.Until); late > o.Sending.Late() {
		return d.failed(ctx, a, errors.New("its time passed while the program was down"))
	}
	account, err := d.Store.AnyAccount(ctx, a.Account)
	if err != nil {
		return err
	}
	if !account.Active {
		return d.failed(ctx, a, fmt.Errorf("the account of %s, who let it wait, has ended", account.Name))
	}
	by := account.Principal(access.Inside)
	if !by.May(access.Write) {
		return d.failed(ctx, a, fmt.Errorf("the account of %s may not write to people any more", account.Name))
	}
	_, err = d.Send(ctx, a.Message, a.Revision, Checked{Recipients: &a.Recipients, Typed: a.Recipients}, by)
	switch {
	case errors.Is(err, store.ErrConflict): // it was changed or sent at this moment
		return nil
	case errors.Is(err, ErrBlocked), errors.Is(err, ErrChanged), errors.Is(err, store.ErrNotFound):
		return d.failed(ctx, a, err)
	}
	return err
}

func (d *Service) failed(ctx context.Context, a store.Awaiting, why error) error {
	err := d.Store.FailAwaited(ctx, a, why.Error())
	d.Held(a.Message)
	return err
}
