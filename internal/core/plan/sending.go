package plan

import (
	"cmp"
	"fmt"
)

// Sending is how an organisation sends, unless a message says otherwise. The
// zero value honours wishes and limits nothing.
type Sending struct {
	Unwished  bool `json:"unwished,omitempty" doc:"Routine messages do not try the channel first that somebody asked for"`
	LoadLimit int  `json:"loadLimit,omitempty" minimum:"0" maximum:"1000" doc:"The most routine and timely messages that somebody gets in 7 days; 0 is no limit"`
	MailLimit int  `json:"mailLimit,omitempty" minimum:"0" maximum:"100" doc:"The most megabytes of files that go with an email; 0 is 20"`
}

const (
	usualMailLimit = 20
	megabyte       = 1_000_000
)

// LargestMail is how many bytes the files of an email may have together.
func (s Sending) LargestMail() int64 { return int64(cmp.Or(s.MailLimit, usualMailLimit)) * megabyte }

// Validate refuses rules that nothing could follow.
func (s Sending) Validate() error {
	if s.LoadLimit < 0 {
		return fmt.Errorf("the weekly limit is %d, and cannot be less than nothing", s.LoadLimit)
	}
	if s.MailLimit < 0 {
		return fmt.Errorf("the limit of an email's files is %d megabytes, and cannot be less than nothing", s.MailLimit)
	}
	return nil
}
