// Package turn says who is next where several messages wait for one carrier.
package turn

// Deal gives out turns among sides, the same number to each until it has no more
// use for them. Take is asked to use up to most turns for a side, given by index,
// and returns how many it used; it is asked again only after it used all. The sides
// are asked in order, so that whoever has fewer turns than sides begins with another
// next time. The first error ends the deal.
func Deal(turns, sides int, take func(side, most int) (int, error)) error {
	open := make([]int, sides)
	for i := range open {
		open[i] = i
	}
	for turns > 0 && len(open) > 0 {
		share := max(1, turns/len(open))
		var still []int
		for _, side := range open {
			if turns == 0 {
				return nil
			}
			used, err := take(side, share)
			if err != nil {
				return err
			}
			turns -= used
			if used == share {
				still = append(still, side)
			}
		}
		open = still
	}
	return nil
}

// Interleave takes one from each list in turn until all are empty.
func Interleave[T any](lists [][]T) []T {
	var out []T
	for i := 0; ; i++ {
		before := len(out)
		for _, list := range lists {
			if i < len(list) {
				out = append(out, list[i])
			}
		}
		if len(out) == before {
			return out
		}
	}
}
