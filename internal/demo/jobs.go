package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/desk"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/job"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/desks"
	"upperlantern/internal/editing"
	"upperlantern/internal/sending"
)

// duty is a job of the flood watch: its times in hours from now, and which of the people
// of a stretch of the river are in it.
type duty struct {
	name, reference, place string
	starts, ends           int
	closed                 bool
	from                   string
	every                  int // of the people there
}

var duties = []duty{
	{"Pump at the mill", "QM-114", "Quillmere mill, lower race", -1, 7, false, "Millrace to Harrow Lock", 3},
	{"Boom across the quays", "QM-113", "Town quays, north steps", -9, -2, false, "Town quays", 3},
	{"Gauge watch", "QM-115", "Fen Row footbridge", 9, 19, false, "Harrow Lock to Fen Row", 5},
	{"Sandbags at Fen Row", "QM-109", "Fen Row 2 to 14", -26, -20, true, "Harrow Lock to Fen Row", 2},
}

// jobs makes the jobs of the flood watch: the first of those in each watch over it, the
// second is on site.
func (a arranger) jobs(unit roster.UnitID) error {
	for _, d := range duties {
		starts := a.now.Add(time.Duration(d.starts) * time.Hour).Truncate(time.Hour)
		ends := a.now.Add(time.Duration(d.ends) * time.Hour).Truncate(time.Hour)
		id, err := a.g.BeginJob(a.ctx, a.by, roster.Group{
			Name: d.name, Reference: d.reference, Place: d.place, Unit: unit, Starts: &starts, Ends: &ends,
		}, editing.Beginning{})
		if err != nil {
			return fmt.Errorf("job %s: %w", d.name, err)
		}
		for part, crew := range a.crew(d) {
			if len(crew) == 0 {
				continue // a roster of another size
			}
			if _, err := a.g.PutInJob(a.ctx, a.by, id, part, editing.Whom{People: crew}); err != nil {
				return fmt.Errorf("job %s: %w", d.name, err)
			}
		}
		if !d.closed {
			continue
		}
		if err := a.g.KeepJobTemplate(a.ctx, a.by, id, "Sandbags, ten people"); err != nil {
			return err
		}
		if err := a.g.CloseJob(a.ctx, a.by, id, &ends); err != nil {
			return err
		}
	}
	return nil
}

func (a arranger) crew(d duty) map[job.Part][]roster.PersonID {
	crew := map[job.Part][]roster.PersonID{}
	r, err := a.roster()
	if err != nil {
		return crew
	}
	from, there := r.GroupNamed(d.from)
	if !there {
		return crew
	}
	for n, i := range r.In(from.ID) {
		if n%d.every != 0 || r.At(i).Status != roster.Active {
			continue
		}
		part := job.Does
		switch {
		case len(crew[job.Watches]) == 0:
			part = job.Watches
		case len(crew[job.OnSite]) == 0:
			part = job.OnSite
		}
		crew[part] = append(crew[part], r.At(i).ID)
	}
	return crew
}

// asksFor is how long before the demo begins it was asked who comes to the pump: after the
// roll call, so that a number answers this question.
const asksFor = 29 * time.Minute

// worksOnJobs asks who is coming to the first job, and lets its people talk.
func (h *historian) worksOnJobs(ctx context.Context, service *desks.Service, now time.Time) error {
	r, err := h.Roster(ctx)
	if err != nil {
		return err
	}
	pump, there := r.GroupNamed(duties[0].name)
	if !there || len(r.In(pump.ID)) == 0 {
		return nil // a roster of another size
	}
	if err := h.asksWhoIsComing(ctx, service, pump.ID, now); err != nil {
		return err
	}
	return h.talksAtJob(ctx, service, pump.ID, now)
}

func (h *historian) asksWhoIsComing(
	ctx context.Context, service *desks.Service, id roster.GroupID, now time.Time,
) error {
	h.now = now.Add(-asksFor)
	sent, err := h.send(ctx, past{
		sender: floodDesk, group: "Sluice keys", urgency: roster.Emergency, subject: "Pump at the mill: who is coming?",
		reason: "The mill floods within hours",
		text:   "The pump at the mill needs six people with a key to the sluice.",
		question: &message.Question{Job: id, Needed: 6, Choices: []message.FixedAnswer{
			{Words: "I am coming", Means: message.Counts}, {Words: "I am coming later", Means: message.Minutes}, {Words: "I cannot come"},
		}, Filled: "We are enough now. Thank you, you do not need to come."},
	})
	if err != nil || sent == 0 {
		return err
	}
	board, err := h.Board(ctx, sent)
	if err != nil {
		return err
	}
	r, err := h.Roster(ctx)
	if err != nil {
		return err
	}
	said := []string{"1", "1", "3", "2 20", "1"}
	for _, asked := range board.Asked {
		from := textOf(r, asked.Person)
		if from == "" || len(said) == 0 {
			continue
		}
		h.now = h.now.Add(time.Minute)
		err := service.Take(ctx, incoming.Item{
			Via: delivery.ViaOf(roster.Text), Key: "who comes " + from, Channel: roster.Text, From: from, Text: said[0], At: h.now,
		})
		if err != nil {
			return err
		}
		said = said[1:]
	}
	_, err = h.JoinJobs(ctx)
	return err
}

// textOf is where somebody alone gets texts; "" for nowhere.
func textOf(r *roster.Roster, id roster.PersonID) string {
	p := r.Person(id)
	if p == nil {
		return ""
	}
	at := slices.IndexFunc(p.Addresses, func(a roster.Address) bool {
		return a.Channel == roster.Text && a.Usable() && len(r.Holders(a.Value)) == 1
	})
	if at < 0 {
		return ""
	}
	return p.Addresses[at].Value
}

// talksAtJob lets all at the pump see what is said, and some of them say something.
func (h *historian) talksAtJob(ctx context.Context, service *desks.Service, id roster.GroupID, now time.Time) error {
	by := h.accounts[floodDesk].Principal(access.Inside)
	mine, err := service.Mine(ctx, by)
	if err != nil || len(mine) == 0 {
		return err
	}
	h.now = now.Add(-16 * time.Minute)
	thread, err := service.OpenMany(ctx, mine[0].ID, desks.Many{With: desk.OfJob, Group: id}, by)
	if err != nil {
		return err
	}
	if err := service.Share(ctx, thread, true, by); err != nil {
		return err
	}
	if err := h.allLeaves(ctx); err != nil {
		return err
	}
	r, err := h.Roster(ctx)
	if err != nil {
		return err
	}
	crew := slices.DeleteFunc(r.In(id), func(i int) bool { return r.At(i).Language != "en" || textOf(r, r.At(i).ID) == "" })
	if len(crew) == 0 {
		return nil
	}
	said := []string{"", "At the lower race. The grate is full of reeds.", "", "I bring the long rake, ten minutes.", "Pump runs. Level falls slowly."}
	ours := map[int]string{0: "The pump leaves the yard at the full hour. Keep off the footbridge.", 2: "Good. Tell us when the pump runs."}
	for n := range said {
		h.now = h.now.Add(3 * time.Minute)
		if ours[n] != "" {
			if _, err := service.SayToAll(ctx, thread, desks.ToAll{Text: ours[n]}, by); err != nil {
				return err
			}
			h.now = h.now.Add(sending.AnswerHold)
		} else {
			from := textOf(r, r.At(crew[n%len(crew)]).ID)
			err := service.Take(ctx, incoming.Item{
				Via: delivery.ViaOf(roster.Text), Key: fmt.Sprintf("at the pump %d", n), Channel: roster.Text, From: from, Text: said[n], At: h.now,
			})
			if err != nil {
				return err
			}
		}
		if err := h.allLeaves(ctx); err != nil {
			return err
		}
	}
	return nil
}

// allLeaves lets everything that may leave now leave, by every channel.
func (h *historian) allLeaves(ctx context.Context) error {
	if _, err := h.Release(ctx, h.now); err != nil {
		return err
	}
	for _, channel := range roster.Channels {
		if err := h.handOver(ctx, channel); err != nil {
			return err
		}
	}
	return nil
}
