package throttle_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"upperlantern/internal/core/throttle"
)

var (
	start = time.Date(2026, 11, 26, 8, 0, 0, 0, time.UTC)
	rules = throttle.Rules{Free: 3, First: 2 * time.Second, Longest: time.Minute, Forget: time.Hour, Most: 100}
)

func TestWaitsGrowWithEveryTry(t *testing.T) {
	tries := throttle.New(rules)
	var waits []time.Duration
	for range 10 {
		waits = append(waits, tries.Wait("a", start))
		tries.Begin("a", start)
	}
	assert.Equal(
		t,
		[]time.Duration{
			0, 0, 0, 2 * time.Second, 4 * time.Second, 8 * time.Second, 16 * time.Second, 32 * time.Second, time.Minute,
			time.Minute,
		},
		waits,
	)
	assert.Zero(t, tries.Wait("b", start), "others do not wait")
	assert.Equal(t, 30*time.Second, tries.Wait("a", start.Add(30*time.Second)))
	assert.Zero(t, tries.Wait("a", start.Add(time.Minute)))
	assert.Zero(t, tries.Wait("a", start.Add(time.Hour)), "all is forgotten")
	tries.Begin("a", start.Add(2*time.Hour))
	assert.Zero(t, tries.Wait("a", start.Add(2*time.Hour)))
}

func TestARightTryIsForgiven(t *testing.T) {
	tries := throttle.New(rules)
	for range 5 {
		tries.Begin("a", start)
	}
	tries.Clear("a")
	assert.Zero(t, tries.Wait("a", start))
	assert.Zero(t, tries.Len())
}

func TestMemoryIsBounded(t *testing.T) {
	tries := throttle.New(rules)
	for n := range 10_000 {
		tries.Begin(fmt.Sprint(n), start.Add(time.Duration(n)*time.Millisecond))
		assert.LessOrEqual(t, tries.Len(), rules.Most)
	}
	for range 5 {
		tries.Begin("9999", start.Add(10*time.Second))
	}
	assert.Positive(t, tries.Wait("9999", start.Add(10*time.Second)), "the newest is remembered")
	same := throttle.New(rules)
	for n := range 1000 {
		same.Begin(fmt.Sprint(n), start)
		assert.LessOrEqual(t, same.Len(), rules.Most, "also of keys of one instant")
	}
}
