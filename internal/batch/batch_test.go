package batch_test

import (
	"errors"
	"slices"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/batch"
)

func TestEverythingIsDoneOnceAndTogether(t *testing.T) {
	var done []int
	rounds, begun, goOn := 0, make(chan bool), make(chan bool)
	g := batch.Group[int]{Most: 30, Do: func(some []int) error {
		if rounds++; rounds == 1 {
			begun <- true
			<-goOn
		}
		assert.LessOrEqual(t, len(some), 30)
		done = append(done, some...)
		return nil
	}}
	var all sync.WaitGroup
	all.Go(func() { assert.NoError(t, g.Add(0)) })
	<-begun
	added := make(chan bool)
	for i := 1; i <= 100; i++ {
		all.Go(func() {
			added <- true
			assert.NoError(t, g.Add(i))
		})
		<-added
	}
	goOn <- true
	all.Wait()
	slices.Sort(done)
	want := make([]int, 101)
	for i := range want {
		want[i] = i
	}
	assert.Equal(t, want, done)
	assert.Less(t, rounds, 101, "those that came meanwhile were done together")
}

func TestWhatFailsFailsForThoseInIt(t *testing.T) {
	full := errors.New("the disk is full")
	g := batch.Group[int]{Most: 10, Do: func(some []int) error {
		if slices.Contains(some, 7) {
			return full
		}
		return nil
	}}
	require.ErrorIs(t, g.Add(7), full)
	require.NoError(t, g.Add(8), "the next ones are done again")
}
