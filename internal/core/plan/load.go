package plan

import (
	"time"

	"upperlantern/internal/core/roster"
)

// LoadTime is how far back the messages that somebody was sent are counted.
const LoadTime = 7 * 24 * time.Hour

// Load is how many messages somebody was sent within LoadTime.
type Load struct {
	Routine   int
	Timely    int
	Emergency int
}

// counted are the messages that the limit is about: nobody chooses emergencies.
func (l Load) counted() int { return l.Routine + l.Timely }

// LoadSummary is how much the people of a message were sent lately.
type LoadSummary struct {
	Sent Load // to all of them together
	Most int  // messages to the one who was sent the most
	Over int  // people whom this message takes over the limit
}

func (p *Plan) load(id roster.PersonID) Load {
	if p.Settings.Load == nil {
		return Load{}
	}
	return p.Settings.Load(id)
}

// Over reports whether this message takes somebody over the limit.
func (p *Plan) Over(id roster.PersonID) bool {
	limit := p.Settings.Sending.LoadLimit
	return limit > 0 && p.Draft.Urgency != roster.Emergency && p.load(id).counted() >= limit
}

// spares reports whether somebody is left out because they had enough; only
// routine messages spare anybody.
func (p *Plan) spares(id roster.PersonID) bool {
	return p.Draft.Spare && p.Draft.Urgency == roster.Routine && p.Over(id)
}

func (p *Plan) summariseLoad(r *roster.Roster) LoadSummary {
	var s LoadSummary
	for _, rec := range p.Recipients {
		id := r.At(rec.Person).ID
		had := p.load(id)
		s.Sent.Routine += had.Routine
		s.Sent.Timely += had.Timely
		s.Sent.Emergency += had.Emergency
		s.Most = max(s.Most, had.counted()+had.Emergency)
		if p.Over(id) {
			s.Over++
		}
	}
	return s
}
