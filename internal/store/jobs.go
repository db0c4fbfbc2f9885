package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/job"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store/query"
)

// JobPerson is somebody in a job.
type JobPerson struct {
	Part   job.Part
	CameBy int64 // the message that they answered; 0 when they were put there by hand
}

// JobParts are the parts of people in a job.
type JobParts map[roster.PersonID]JobPerson

// Of is the part of somebody in the job.
func (p JobParts) Of(id roster.PersonID) job.Part {
	if known, ok := p[id]; ok && known.Part != job.Out {
		return known.Part
	}
	return job.Does
}

// JobParts are the parts that people have in a job, where that was said.
func (s *Store) JobParts(ctx context.Context, id roster.GroupID) (JobParts, error) {
	rows, err := s.read().JobPeople(ctx, int64(id))
	parts := JobParts{}
	for _, row := range rows {
		parts[roster.PersonID(row.PersonID)] = JobPerson{row.Part, row.CameBy}
	}
	return parts, err
}

// PutJobParts keeps the part that people have in a job.
func (s *Store) PutJobParts(ctx context.Context, id roster.GroupID, part job.Part, people []roster.PersonID) error {
	return s.write(ctx, func(q *query.Queries) error {
		for _, p := range people {
			err := q.PutJobPerson(ctx, query.PutJobPersonParams{JobID: int64(id), PersonID: int64(p), Part: part})
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// JobCounts are how many people of each job have a part that was said.
func (s *Store) JobCounts(ctx context.Context) (map[roster.GroupID]map[job.Part]int, error) {
	rows, err := s.read().JobPartCounts(ctx)
	counts := map[roster.GroupID]map[job.Part]int{}
	for _, row := range rows {
		id := roster.GroupID(row.JobID)
		if counts[id] == nil {
			counts[id] = map[job.Part]int{}
		}
		counts[id][row.Part] = int(row.People)
	}
	return counts, err
}

// JobTemplate is what a new job can begin with.
type JobTemplate struct {
	ID   int64
	Name string
	job.Template
}

func jobTemplateOf(id int64, name, text string) (JobTemplate, error) {
	t := JobTemplate{ID: id, Name: name}
	if err := json.Unmarshal([]byte(text), &t.Template); err != nil {
		return t, fmt.Errorf("reading the template %s: %w", name, err)
	}
	return t, nil
}

// JobTemplates are all, by name.
func (s *Store) JobTemplates(ctx context.Context) ([]JobTemplate, error) {
	rows, err := s.read().JobTemplates(ctx)
	list := make([]JobTemplate, len(rows))
	for i, row := range rows {
		t, wrong := jobTemplateOf(row.ID, row.Name, row.Job)
		list[i], err = t, errors.Join(err, wrong)
	}
	return list, err
}

// JobTemplate is one of them.
func (s *Store) JobTemplate(ctx context.Context, id int64) (JobTemplate, error) {
	row, err := s.read().JobTemplate(ctx, id)
	if err != nil {
		return JobTemplate{}, found(err)
	}
	return jobTemplateOf(row.ID, row.Name, row.Job)
}

// PutJobTemplate keeps a template; one of that name is replaced.
func (s *Store) PutJobTemplate(ctx context.Context, name string, t job.Template) error {
	text, err := json.Marshal(t)
	if err != nil {
		return err
	}
	return s.write(ctx, func(q *query.Queries) error {
		return q.PutJobTemplate(ctx, query.PutJobTemplateParams{Name: name, Job: string(text)})
	})
}

// DropJobTemplate removes a template.
func (s *Store) DropJobTemplate(ctx context.Context, id int64) error {
	return s.write(ctx, func(q *query.Queries) error { return one(q.DropJobTemplate(ctx, id)) })
}

// JobAsk is a message that asks for a job who is coming.
type JobAsk struct {
	Message, Author int64
	Title           string
}

// JobAsks are the messages that asked for a job who is coming, the last first.
func (s *Store) JobAsks(ctx context.Context, id roster.GroupID) ([]JobAsk, error) {
	rows, err := s.read().JobAsks(ctx, nullID(int64(id)))
	list := make([]JobAsk, len(rows))
	for i, row := range rows {
		list[i] = JobAsk{row.ID, row.AccountID, row.Title}
	}
	return list, err
}

// GroupThread is a thread with a group or a job.
type GroupThread struct {
	ID     int64
	Desk   desk.ID
	Waits  desk.Waits
	Unread bool
}

// ThreadsOfGroup are the threads of all desks with a group or a job.
func (s *Store) ThreadsOfGroup(ctx context.Context, id roster.GroupID) ([]GroupThread, error) {
	rows, err := s.read().ThreadsOfGroup(ctx, nullID(int64(id)))
	list := make([]GroupThread, len(rows))
	for i, row := range rows {
		list[i] = GroupThread{row.ID, desk.ID(row.DeskID.Int64), row.Waits, row.Unread}
	}
	return list, err
}

// JoinJobs takes those into open jobs who answered that they are coming, and those out
// again who took that back and were not put there by hand. It returns the jobs that
// changed. What is done twice is done once.
func (s *Store) JoinJobs(ctx context.Context) (changed []roster.GroupID, err error) {
	last, err := s.read().LastAnswerGiven(ctx)
	if err != nil {
		return nil, err
	}
	due, err := s.read().JobsToJoin(ctx, last)
	if err != nil || len(due) == 0 {
		return nil, err
	}
	err = s.write(ctx, func(q *query.Queries) error {
		for _, row := range due {
			moved, err := join(ctx, q, row)
			if err != nil {
				return fmt.Errorf("taking those who come by message %d into their job: %w", row.ID, err)
			}
			if moved {
				changed = append(changed, roster.GroupID(row.JobID.Int64))
			}
			if err := q.SetJoined(ctx, query.SetJoinedParams{ID: row.ID, Last: last}); err != nil {
				return err
			}
		}
		if len(changed) == 0 {
			return nil
		}
		s.good.forget()
		return q.BumpRevision(ctx)
	})
	return changed, err
}

func join(ctx context.Context, q *query.Queries, m query.JobsToJoinRow) (moved bool, err error) {
	var d message.Draft
	if err := draftForm.read(m.Draft, &d); err != nil {
		return false, err
	}
	numbers, err := json.Marshal(d.Question.Filling())
	if err != nil {
		return false, err
	}
	coming, err := q.ComingBy(ctx, query.ComingByParams{MessageID: m.ID, Answers: string(numbers)})
	if err != nil {
		return false, err
	}
	inside, err := q.JobPeople(ctx, m.JobID.Int64)
	if err != nil {
		return false, err
	}
	takenOut := func(p int64) bool {
		return slices.ContainsFunc(inside, func(k query.JobPeopleRow) bool { return k.PersonID == p && k.Part == job.Out })
	}
	for _, p := range coming {
		if takenOut(p) {
			continue
		}
		n, err := q.PutMember(ctx, query.PutMemberParams{GroupID: m.JobID.Int64, PersonID: p})
		if err != nil {
			return moved, err
		}
		if n == 0 {
			continue // they are in it
		}
		moved = true
		if err := q.PutJobPerson(ctx, query.PutJobPersonParams{
			JobID: m.JobID.Int64, PersonID: p, Part: job.Does, CameBy: nullID(m.ID),
		}); err != nil {
			return moved, err
		}
	}
	var gone []int64
	for _, p := range inside {
		if p.CameBy != m.ID || slices.Contains(coming, p.PersonID) {
			continue
		}
		gone = append(gone, p.PersonID)
		if err := q.DropMember(ctx, query.DropMemberParams{GroupID: m.JobID.Int64, PersonID: p.PersonID}); err != nil {
			return moved, err
		}
	}
	if len(gone) == 0 {
		return moved, nil
	}
	return true, q.DropJobPeople(ctx, query.DropJobPeopleParams{JobID: m.JobID.Int64, People: idsText(gone)})
}
