package turn_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/turn"
)

// deal gives out turns among sides that want the given numbers.
func deal(t require.TestingT, turns int, want []int) []int {
	got := make([]int, len(want))
	require.NoError(t, turn.Deal(turns, len(want), func(side, most int) (int, error) {
		used := min(most, want[side]-got[side])
		got[side] += used
		return used, nil
	}))
	return got
}

func TestDeal(t *testing.T) {
	for _, c := range []struct {
		name  string
		turns int
		want  []int
		got   []int
	}{
		{"nobody wants any", 5, nil, []int{}},
		{"one takes all it wants", 5, []int{3}, []int{3}},
		{"one takes all there are", 5, []int{9}, []int{5}},
		{"a small one does not wait for a large one", 100, []int{50_000, 5}, []int{95, 5}},
		{"equals get the same", 10, []int{50, 50}, []int{5, 5}},
		{"what is left goes to those who want more", 10, []int{1, 50, 2}, []int{1, 7, 2}},
		{"more sides than turns", 2, []int{5, 5, 5}, []int{1, 1, 0}},
		{"no turns", 0, []int{5}, []int{0}},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.got, deal(t, c.turns, c.want)) })
	}
}

// Every turn is used that somebody wants, and nobody who wants more gets less
// than another, but for what does not divide.
func TestDealIsFairAndComplete(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		want := rapid.SliceOfN(rapid.IntRange(0, 40), 1, 8).Draw(t, "want")
		turns := rapid.IntRange(0, 120).Draw(t, "turns")
		got := deal(t, turns, want)
		given, wanted := 0, 0
		for i := range want {
			given, wanted = given+got[i], wanted+want[i]
		}
		require.Equal(t, min(turns, wanted), given)
		for i := range want {
			for j := range want {
				if got[i] < want[i] {
					require.LessOrEqual(t, got[j], got[i]+len(want), "%v of %v", got, want)
				}
			}
		}
	})
}

func TestDealEndsWithTheFirstError(t *testing.T) {
	broken := errors.New("broken")
	asked := 0
	err := turn.Deal(10, 3, func(int, int) (int, error) { asked++; return 0, broken })
	assert.ErrorIs(t, err, broken)
	assert.Equal(t, 1, asked)
}

func TestInterleave(t *testing.T) {
	assert.Equal(t, []string{"a1", "b1", "a2", "a3"}, turn.Interleave([][]string{{"a1", "a2", "a3"}, {"b1"}, nil}))
	assert.Empty(t, turn.Interleave[int](nil))
}
