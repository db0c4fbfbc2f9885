package reporting

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/report"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/messages"
	"upperlantern/internal/store"
)

// mostReaders is to how many accounts a report is mailed.
const mostReaders = 50

// Keep keeps a report by a name, over one's own with the same name, and says to which
// accounts it is mailed each month.
func (s *Service) Keep(
	ctx context.Context, by access.Principal, name string, ask report.Ask, readers []int64,
) (store.KeptReport, error) {
	k := store.KeptReport{
		Owner: by.ID, Name: strings.TrimSpace(name), Ask: ask,
		Readers: slices.Compact(slices.Sorted(slices.Values(readers))),
	}
	switch {
	case k.Name == "":
		return k, fmt.Errorf("%w: a report without a name cannot be kept", report.ErrUnfit)
	case len(k.Readers) > mostReaders:
		return k, fmt.Errorf("%w: a report is mailed to %d accounts at most", report.ErrUnfit, mostReaders)
	}
	now, err := s.local(ctx)
	if err != nil {
		return k, err
	}
	if err := ask.Validate(); err != nil {
		return k, err
	}
	if _, _, err := ask.Span.Days(now); err != nil {
		return k, err
	}
	may, err := s.Readers(ctx, by)
	if err != nil {
		return k, err
	}
	for _, id := range k.Readers {
		if !slices.ContainsFunc(may, func(a store.Account) bool { return a.ID == id }) {
			return k, fmt.Errorf("%w: one of those it is mailed to may not run reports, or is no longer there", report.ErrUnfit)
		}
	}
	kept, err := s.Store.KeptReports(ctx)
	if err != nil {
		return k, err
	}
	if slices.ContainsFunc(kept, func(o store.KeptReport) bool { return o.Name == k.Name && o.Owner != by.ID }) {
		return k, fmt.Errorf("%w: somebody else kept “%s”. Choose another name", messages.ErrTaken, k.Name)
	}
	k.ID, err = s.Store.KeepReport(ctx, k, monthBefore(now).Format("2006-01"))
	return k, err
}

// Kept lists the kept reports that somebody may see: one that asks for words, a person
// or an address is for its owner, and for those who may read records.
func (s *Service) Kept(ctx context.Context, by access.Principal) ([]store.KeptReport, error) {
	kept, err := s.Store.KeptReports(ctx)
	return slices.DeleteFunc(kept, func(k store.KeptReport) bool {
		return k.Owner != by.ID && !by.May(access.ReadRecords) && slices.ContainsFunc(k.Ask.Conditions, reads)
	}), err
}

// Readers are the accounts to which somebody can have reports mailed: their own, and
// those that they reach, if they may run reports.
func (s *Service) Readers(ctx context.Context, by access.Principal) ([]store.Account, error) {
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return nil, err
	}
	all, err := s.whoRuns(ctx)
	return slices.DeleteFunc(all, func(a store.Account) bool { return !by.SeesMessagesOf(a.ID, a.Grant, r.Units) }), err
}

// whoRuns are the accounts that may run reports and have a mailbox.
func (s *Service) whoRuns(ctx context.Context) ([]store.Account, error) {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, err
	}
	accounts, err := s.Store.Accounts(ctx)
	return slices.DeleteFunc(accounts, func(a store.Account) bool {
		return !a.Active || !a.Within(o.FactorFor).May(access.RunReports) || !strings.Contains(a.Login, "@")
	}), err
}

// Drop forgets a report: one's own, or anybody's for who may change settings.
func (s *Service) Drop(ctx context.Context, by access.Principal, id int64) error {
	kept, err := s.Store.KeptReports(ctx)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(kept, func(k store.KeptReport) bool { return k.ID == id })
	switch {
	case at < 0:
		return store.ErrNotFound
	case kept[at].Owner != by.ID && !(by.May(access.ChangeSettings) && by.Scope.Whole):
		return fmt.Errorf("%w: somebody else kept this report", access.ErrNotYours)
	}
	return s.Store.DropReport(ctx, id)
}

// lookEvery is how often it is looked what a new day or a new month asks for.
const lookEvery = 10 * time.Minute

// Watch counts gaps once a day and mails reports once a month, until ctx ends.
func (s *Service) Watch(ctx context.Context) {
	for {
		if err := s.Tick(ctx); err != nil && ctx.Err() == nil {
			s.Log.Error("counting gaps and mailing reports", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(lookEvery):
		}
	}
}

// Tick does what a new day or a new month asks for.
func (s *Service) Tick(ctx context.Context) error {
	now, err := s.local(ctx)
	if err != nil {
		return err
	}
	return errors.Join(s.countGaps(ctx, now), s.mailDue(ctx, now))
}

// local is the time of now on the organisation's clocks.
func (s *Service) local(ctx context.Context) (time.Time, error) {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return time.Time{}, err
	}
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		return time.Time{}, err
	}
	return s.Now().In(zone), nil
}

func (s *Service) countGaps(ctx context.Context, now time.Time) error {
	day := roster.Date(now.Format(time.DateOnly))
	known, err := s.Store.GapsCounted(ctx, day)
	if err != nil || known {
		return err
	}
	r, err := s.Store.Roster(ctx)
	if err != nil {
		return err
	}
	return s.Store.KeepGaps(ctx, day, report.CountDay(r))
}

// monthBefore is the last day of the month before.
func monthBefore(now time.Time) time.Time {
	return time.Date(now.Year(), now.Month(), 0, 12, 0, 0, 0, now.Location())
}

// mailDue mails what is due of the month before. What was handed over is kept one by
// one; what was not is tried again.
func (s *Service) mailDue(ctx context.Context, now time.Time) error {
	last := monthBefore(now)
	month := last.Format("2006-01")
	due, err := s.Store.ReportsDue(ctx, month)
	if err != nil || len(due) == 0 {
		return err
	}
	kept, err := s.Store.KeptReports(ctx)
	if err != nil {
		return err
	}
	readers, err := s.whoRuns(ctx)
	if err != nil {
		return err
	}
	for _, d := range due {
		k := slices.IndexFunc(kept, func(k store.KeptReport) bool { return k.ID == d.Report })
		a := slices.IndexFunc(readers, func(a store.Account) bool { return a.ID == d.Account })
		if k >= 0 && a >= 0 {
			if failed := s.mail(ctx, kept[k], readers[a], last); failed != nil {
				err = errors.Join(err, fmt.Errorf("mailing %s to %s: %w", kept[k].Name, readers[a].Login, failed))
				continue
			}
		}
		err = errors.Join(err, s.Store.ReportMailed(ctx, d, month))
	}
	return err
}

// mail mails a report as it is on the last day of a month.
func (s *Service) mail(ctx context.Context, k store.KeptReport, to store.Account, last time.Time) error {
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return err
	}
	by := to.Principal(access.Inside)
	by.Grant = to.Within(o.FactorFor)
	ask := k.Ask
	if ask.Span.Of == "last-month" { // it is about the month that has ended
		ask.Span.Of = "this-month"
	}
	t, err := s.runOn(ctx, by, ask, last)
	if err != nil {
		return err
	}
	body := t.Plain()
	if s.Site != "" {
		body += "\n" + strings.TrimSuffix(s.Site, "/") + "/reports\n"
	}
	return s.Mail(ctx, to.Login, k.Name+", "+last.Format("January 2006"), body)
}
