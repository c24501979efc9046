package kinds_test

import (
	"bufio"
	"crypto/sha256"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/locale"
)

// ready are the ready instruments in the order in which the fingerprints take them: a gear-tooth vernier is the third.
func ready() []instrument.Spec {
	var all []instrument.Spec // those that there were when the first dealers dealt
	for _, f := range instrument.Families[:9] {
		all = append(all, f.Patterns()...)
	}
	gear := slices.IndexFunc(all, func(s instrument.Spec) bool { return s.Family == instrument.GearTooth })
	third := all[gear]
	return slices.Insert(slices.Delete(all, gear, gear+1), 2, third)
}

// dealtSums are the fingerprints of what every kind deals from ready instruments: every one of the list, or every so
// manieth.
func dealtSums(t *testing.T, dealer int, seeds uint64, nth int) map[string]string {
	t.Helper()
	sums := map[string]string{}
	for _, k := range kinds.All {
		sum := sha256.New()
		sheet := exercise.Sheet{Dealer: dealer}
		for i, p := range ready() {
			if i%nth != 0 {
				continue
			}
			in, err := instrument.New(p)
			require.NoError(t, err)
			b := block(k.Name(), 2, "awkward=50", in)
			if _, bare := k.(exercise.Bare); bare {
				b = block(k.Name(), 1, "")
			}
			if _, asks := find(k, "awkward"); !asks {
				delete(b.Settings, "awkward")
			}
			sheet.Blocks = []exercise.Block{b}
			if sheet.Check(kinds.All) != nil { // needs more to choose from
				for _, at := range []int{3, 10, 20} {
					b.Instruments = append(b.Instruments, must(instrument.New(ready()[at])))
				}
				sheet.Blocks[0] = b
			}
			if sheet.Check(kinds.All) != nil {
				continue
			}
			for seed := range seeds {
				for _, it := range must(sheet.Deal(kinds.All, seed)) {
					sum.Write([]byte(locale.Documents().Prose(string(must(exercise.Document(it))))))
				}
			}
		}
		sums[k.Name()] = fmt.Sprintf("%x", sum.Sum(nil)[:12])
	}
	return sums
}

func find(k exercise.Kind, setting string) (exercise.Setting, bool) {
	for _, s := range k.Settings() {
		if s.Name == setting {
			return s, true
		}
	}
	return exercise.Setting{}, false
}

// The same seed, the same sheet, on every machine and for ever: the newer dealers too. A dealer that has been
// released is never written anew here; a new kind adds its line.
func TestDealersStayAsTheyWere(t *testing.T) {
	t.Parallel()
	const file = "../../testdata/golden-dealers.txt"
	rounds := []struct {
		seeds uint64
		nth   int
	}{{4, 1}, {100, 5}}
	first := 2
	if testing.Short() {
		rounds, first = rounds[:1], exercise.Dealing
	}
	was := map[string]string{}
	f, err := os.Open(file)
	require.NoError(t, err)
	defer f.Close()
	for lines := bufio.NewScanner(f); lines.Scan(); {
		key, sum, _ := strings.Cut(lines.Text(), " = ")
		was[key] = sum
	}
	var written []string
	for dealer := first; dealer <= exercise.Dealing; dealer++ {
		for i, r := range rounds {
			if i > 0 && dealer < exercise.Dealing-1 {
				continue // of earlier ones the first round has every kind and card
			}
			sums := dealtSums(t, dealer, r.seeds, r.nth)
			for _, k := range kinds.All {
				key := fmt.Sprintf("dealer %d, %d seeds, %s", dealer, r.seeds, k.Name())
				written = append(written, key+" = "+sums[k.Name()])
				if os.Getenv("CAVIX_GOLDEN") != "write" {
					assert.Equal(t, was[key], sums[k.Name()], key)
				}
			}
		}
	}
	if os.Getenv("CAVIX_GOLDEN") == "write" {
		require.NoError(t, os.WriteFile(file, []byte(strings.Join(written, "\n")+"\n"), 0o644))
	}
}
