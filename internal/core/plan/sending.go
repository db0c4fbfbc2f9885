package plan

import "fmt"

// Sending is how an organisation sends, unless a message says otherwise. The
// zero value honours wishes and limits nothing.
type Sending struct {
	Unwished  bool `json:"unwished,omitempty" doc:"Routine messages do not try the channel first that somebody asked for"`
	LoadLimit int  `json:"loadLimit,omitempty" minimum:"0" maximum:"1000" doc:"The most routine and timely messages that somebody gets in 7 days; 0 is no limit"`
}

// Validate refuses rules that nothing could follow.
func (s Sending) Validate() error {
	if s.LoadLimit < 0 {
		return fmt.Errorf("the weekly limit is %d, and cannot be less than nothing", s.LoadLimit)
	}
	return nil
}
