package record

import (
	"math"
	"slices"
	"time"

	"upperlantern/internal/core/roster"
)

// What is counted of deliveries over time.
type What string

const (
	Free    What = "free"    // they might leave, as planned
	Left    What = "left"    // a carrier took them
	Arrived What = "arrived" // they got to their address
)

// Moment is how many deliveries of a channel came that far at an instant.
type Moment struct {
	At      time.Time
	Channel roster.Channel
	What    What
	Count   int
}

// Point is how many deliveries had come how far at an instant, all in all.
type Point struct {
	At      time.Time
	Free    int
	Left    int
	Arrived map[roster.Channel]int
}

// Progress is how far deliveries came over time, in points at equal distances from the
// first moment to the last; the last point counts everything. A few that came very late
// do not stretch it: it then ends soon after nearly everything had come. Without moments
// there are none.
func Progress(moments []Moment, points int) []Point {
	if len(moments) == 0 {
		return nil
	}
	moments = slices.Clone(moments)
	slices.SortStableFunc(moments, func(a, b Moment) int { return a.At.Compare(b.At) })
	from, span := moments[0].At, spanOf(moments)
	list := make([]Point, 0, points+1)
	now, next := Point{Arrived: map[roster.Channel]int{}}, 0
	for i := range points + 1 {
		at := from.Add(span * time.Duration(i) / time.Duration(points))
		for ; next < len(moments) && (i == points || !moments[next].At.After(at)); next++ {
			now.add(moments[next])
		}
		p := Point{At: at, Free: now.Free, Left: now.Left, Arrived: map[roster.Channel]int{}}
		for c, n := range now.Arrived {
			p.Arrived[c] = n
		}
		list = append(list, p)
		if span == 0 {
			break
		}
	}
	return list
}

// nearly is the share of all deliveries after which the rest is late.
const nearly = 0.95

// spanOf is how long moments, the earliest first, are looked at.
func spanOf(moments []Moment) time.Duration {
	from, all, come := moments[0].At, 0, 0
	for _, m := range moments {
		all += m.Count
	}
	whole := moments[len(moments)-1].At.Sub(from)
	for _, m := range moments {
		come += m.Count
		if near := m.At.Sub(from); float64(come) >= nearly*float64(all) {
			if near > 0 && whole > 4*near {
				return near * 5 / 4
			}
			break
		}
	}
	return whole
}

// Share is after how long a share of some durations had passed, the shortest first; 0
// without any. A share is between 0 and 1.
func Share(sorted []time.Duration, share float64) time.Duration {
	if len(sorted) == 0 {
		return 0
	}
	return sorted[max(0, int(math.Ceil(share*float64(len(sorted))))-1)]
}

func (p *Point) add(m Moment) {
	switch m.What {
	case Free:
		p.Free += m.Count
	case Left:
		p.Left += m.Count
	case Arrived:
		p.Arrived[m.Channel] += m.Count
	}
}
