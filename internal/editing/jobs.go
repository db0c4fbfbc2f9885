package editing

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/job"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// ownJob is a job that an account may change.
func (g *Editor) ownJob(ctx context.Context, by access.Principal, id roster.GroupID) (View, roster.Group, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return d, roster.Group{}, err
	}
	group, err := d.ownGroup(by, id)
	if err != nil {
		return d, roster.Group{}, err
	}
	if group.Kind != roster.Job {
		return d, roster.Group{}, store.ErrNotFound
	}
	return d, *group, nil
}

// Beginning is what a new job begins with besides what was typed; at most one is set.
type Beginning struct {
	Like     roster.GroupID // another job
	Template int64
}

// BeginJob makes a job, with the people and groups of another one or of a template. What
// was typed goes before what these say.
func (g *Editor) BeginJob(
	ctx context.Context, by access.Principal, typed roster.Group, from Beginning,
) (roster.GroupID, error) {
	t, err := g.template(ctx, by, from)
	if err != nil {
		return 0, err
	}
	d, err := g.View(ctx, by)
	if err != nil {
		return 0, err
	}
	typed.ID, typed.Kind, typed.Closed = 0, roster.Job, nil
	if typed.Place == "" {
		typed.Place = t.Place
	}
	if typed.Unit == 0 && d.Roster.UnitPath(t.Unit) != "" {
		typed.Unit = t.Unit
	}
	if typed.Starts != nil && typed.Ends == nil && t.Minutes > 0 {
		ends := typed.Starts.Add(time.Duration(t.Minutes) * time.Minute)
		typed.Ends = &ends
	}
	for _, id := range t.Inside { // a group that is gone is not nested
		if _, there := d.Roster.Group(id); there && !slices.Contains(typed.Inside, id) {
			typed.Inside = append(typed.Inside, id)
		}
	}
	id, err := g.SaveGroup(ctx, by, typed)
	if err != nil {
		return 0, err
	}
	for _, part := range job.Parts {
		people := slices.DeleteFunc(slices.Clone(t.People[part]), func(p roster.PersonID) bool {
			person := d.Roster.Person(p)
			return person == nil || person.Status == roster.Left
		})
		if len(people) == 0 {
			continue
		}
		if err := g.putInJob(ctx, by, id, part, people); err != nil {
			return id, err
		}
	}
	return id, nil
}

// putInJob puts people into a job, as an edit of the group that can be undone, and keeps
// their part.
func (g *Editor) putInJob(
	ctx context.Context, by access.Principal, id roster.GroupID, part job.Part, people []roster.PersonID,
) error {
	if _, err := g.Fill(ctx, by, id, roster.TakeAdd, people); err != nil {
		return err
	}
	err := g.Store.PutJobParts(ctx, id, part, people)
	g.Changed()
	return err
}

func (g *Editor) template(ctx context.Context, by access.Principal, from Beginning) (job.Template, error) {
	switch {
	case from.Template != 0:
		t, err := g.Store.JobTemplate(ctx, from.Template)
		return t.Template, err
	case from.Like != 0:
		_, like, err := g.seenJob(ctx, by, from.Like)
		if err != nil {
			return job.Template{}, err
		}
		parts, err := g.Store.JobParts(ctx, like.ID)
		return job.Like(like, parts.Of), err
	}
	return job.Template{}, nil
}

// seenJob is a job that an account sees.
func (g *Editor) seenJob(ctx context.Context, by access.Principal, id roster.GroupID) (View, roster.Group, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return d, roster.Group{}, err
	}
	group, there := d.Roster.Group(id)
	if !there || group.Kind != roster.Job {
		return d, roster.Group{}, store.ErrNotFound
	}
	return d, *group, nil
}

// SaveJob changes what a job is called, where and when it is, and which groups are in it.
func (g *Editor) SaveJob(ctx context.Context, by access.Principal, typed roster.Group) error {
	_, before, err := g.ownJob(ctx, by, typed.ID)
	if err != nil {
		return err
	}
	changed := before
	changed.Name, changed.Reference, changed.Place, changed.Unit = typed.Name, typed.Reference, typed.Place, typed.Unit
	changed.Starts, changed.Ends, changed.Inside = typed.Starts, typed.Ends, typed.Inside
	_, err = g.SaveGroup(ctx, by, changed)
	return err
}

// CloseJob closes a job at an instant, or opens it again with nil.
func (g *Editor) CloseJob(ctx context.Context, by access.Principal, id roster.GroupID, at *time.Time) error {
	_, group, err := g.ownJob(ctx, by, id)
	if err != nil {
		return err
	}
	if (group.Closed != nil) == (at != nil) {
		return nil
	}
	group.Closed = at
	_, err = g.SaveGroup(ctx, by, group)
	return err
}

// Whom are people by hand, and everybody who is in a group or belongs to a unit now.
type Whom struct {
	People []roster.PersonID
	Group  roster.GroupID
	Unit   roster.UnitID
}

func (w Whom) in(r *roster.Roster) ([]roster.PersonID, error) {
	people := slices.Clone(w.People)
	if w.Group != 0 {
		if _, there := r.Group(w.Group); !there {
			return nil, fmt.Errorf("%w: the group is no longer there", ErrCannot)
		}
		for _, i := range r.In(w.Group) {
			people = append(people, r.At(i).ID)
		}
	}
	if w.Unit != 0 {
		if r.UnitName(w.Unit) == "" {
			return nil, fmt.Errorf("%w: the area is no longer there", ErrCannot)
		}
		below := roster.Below(r.Units, []roster.UnitID{w.Unit})
		for i := range r.Len() {
			if p := r.At(i); below[p.Unit] && p.Status != roster.Left {
				people = append(people, p.ID)
			}
		}
	}
	for _, id := range people {
		if id <= 0 || r.Person(id) == nil {
			return nil, fmt.Errorf("%w: somebody is not on the roster; nobody was put into the job", ErrCannot)
		}
	}
	if len(people) == 0 {
		return nil, fmt.Errorf("%w: that is nobody", ErrCannot)
	}
	return people, nil
}

// PutInJob puts people into a job with a part, or gives those in it another one. It
// returns how many that are.
func (g *Editor) PutInJob(
	ctx context.Context, by access.Principal, id roster.GroupID, part job.Part, whom Whom,
) (int, error) {
	d, group, err := g.ownJob(ctx, by, id)
	if err != nil {
		return 0, err
	}
	if group.Closed != nil {
		return 0, fmt.Errorf("%w: the job is closed; open it again first", ErrCannot)
	}
	people, err := whom.in(d.Roster)
	if err != nil {
		return 0, err
	}
	return len(people), g.putInJob(ctx, by, id, part, people)
}

// TakeOutOfJob takes people out of a job.
func (g *Editor) TakeOutOfJob(
	ctx context.Context, by access.Principal, id roster.GroupID, people []roster.PersonID,
) error {
	d, _, err := g.ownJob(ctx, by, id)
	if err != nil {
		return err
	}
	people = slices.DeleteFunc(slices.Clone(people), func(p roster.PersonID) bool { return d.Roster.Person(p) == nil })
	if _, err := g.Fill(ctx, by, id, roster.TakeRemove, people); err != nil {
		return err
	}
	err = g.Store.PutJobParts(ctx, id, job.Out, people)
	g.Changed()
	return err
}

// KeepJobTemplate keeps a job as a template under a name.
func (g *Editor) KeepJobTemplate(ctx context.Context, by access.Principal, id roster.GroupID, name string) error {
	_, group, err := g.ownJob(ctx, by, id)
	if err != nil {
		return err
	}
	if name = strings.Join(strings.Fields(name), " "); name == "" {
		return fmt.Errorf("%w: a template needs a name", ErrCannot)
	}
	if err := g.mayReplace(ctx, by, name); err != nil {
		return err
	}
	parts, err := g.Store.JobParts(ctx, id)
	if err != nil {
		return err
	}
	return g.Store.PutJobTemplate(ctx, name, job.Like(group, parts.Of))
}

// mayReplace refuses the name of a template that the account does not see.
func (g *Editor) mayReplace(ctx context.Context, by access.Principal, name string) error {
	all, err := g.Store.JobTemplates(ctx)
	if err != nil {
		return err
	}
	seen, err := g.JobTemplates(ctx, by)
	if err != nil {
		return err
	}
	called := func(t store.JobTemplate) bool { return strings.EqualFold(t.Name, name) }
	if slices.ContainsFunc(all, called) && !slices.ContainsFunc(seen, called) {
		return fmt.Errorf("%w: another unit has a template of this name", ErrCannot)
	}
	return nil
}

// JobTemplates are those that an account may begin a job with: of its units, or of none.
func (g *Editor) JobTemplates(ctx context.Context, by access.Principal) ([]store.JobTemplate, error) {
	d, err := g.View(ctx, by)
	if err != nil {
		return nil, err
	}
	list, err := g.Store.JobTemplates(ctx)
	return slices.DeleteFunc(list, func(t store.JobTemplate) bool {
		return t.Unit != 0 && d.Roster.UnitPath(t.Unit) == ""
	}), err
}

// DropJobTemplate removes a template that the account sees.
func (g *Editor) DropJobTemplate(ctx context.Context, by access.Principal, id int64) error {
	list, err := g.JobTemplates(ctx, by)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(list, func(t store.JobTemplate) bool { return t.ID == id }) {
		return store.ErrNotFound
	}
	return g.Store.DropJobTemplate(ctx, id)
}

// JoinJobs takes those into jobs who answered that they are coming.
func (g *Editor) JoinJobs(ctx context.Context) error {
	changed, err := g.Store.JoinJobs(ctx)
	if len(changed) > 0 {
		g.Changed()
	}
	if err != nil {
		return errors.Join(errors.New("taking those who come into their jobs"), err)
	}
	return nil
}
