package asking

import (
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/record"
)

// Asked is somebody who was asked.
type Asked struct {
	Number  int // of the answer that counts, from 1; 0 for none
	Minutes int
	Outcome record.Outcome // of the message for them
	Wrote   bool           // something that is no answer
}

// Stand is how it stands with somebody who was asked.
type Stand string

// How it can stand.
const (
	Answered Stand = "answered"
	Wrote    Stand = "wrote"      // something else, which somebody has to read
	Silent   Stand = "silent"     // they have the question
	OnTheWay Stand = "on-the-way" // the question is not there yet
	Missed   Stand = "missed"     // it did not reach them, or was stopped
)

// Stands lists them all.
var Stands = []Stand{Answered, Wrote, Silent, OnTheWay, Missed}

// Stand is how it stands with them.
func (a Asked) Stand() Stand {
	switch {
	case a.Number > 0:
		return Answered
	case a.Wrote:
		return Wrote
	case a.Outcome == record.Waiting:
		return OnTheWay
	case a.Outcome == record.Reached, a.Outcome == record.Answered:
		return Silent
	}
	return Missed
}

// Tally counts everybody who was asked once: Asked is the sum of Choices, Wrote, Silent,
// OnTheWay and Missed.
type Tally struct {
	Asked    int   `json:"asked"`
	Choices  []int `json:"choices" doc:"By the number of the answer"`
	Wrote    int   `json:"wrote" doc:"Something that is no answer"`
	Silent   int   `json:"silent" doc:"They have the question and have not answered"`
	OnTheWay int   `json:"onTheWay"`
	Missed   int   `json:"missed" doc:"Not reached"`
	Fills    int   `json:"fills" doc:"Answers that count towards what is needed"`
	Attend   int   `json:"attend" doc:"Answers after which somebody has to look"`
}

// Answered is how many gave an answer.
func (t Tally) Answered() int {
	sum := 0
	for _, n := range t.Choices {
		sum += n
	}
	return sum
}

// Open reports whether somebody who was asked has not answered.
func (t Tally) Open() bool { return t.Answered() < t.Asked }

// Count counts those who were asked.
func Count(q *message.Question, list []Asked) Tally {
	t := Tally{Asked: len(list), Choices: make([]int, len(q.Choices))}
	for _, a := range list {
		switch a.Stand() {
		case Answered:
			choice, ok := q.Choice(a.Number)
			if !ok { // of an answer that the question has no more
				t.Wrote++
				continue
			}
			t.Choices[a.Number-1]++
			if choice.Means.Fills() {
				t.Fills++
			}
			if choice.Means == message.Attend {
				t.Attend++
			}
		case Wrote:
			t.Wrote++
		case Silent:
			t.Silent++
		case OnTheWay:
			t.OnTheWay++
		case Missed:
			t.Missed++
		}
	}
	return t
}
