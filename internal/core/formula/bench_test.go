package formula

import (
	"testing"

	"readyrail/internal/core/value"
)

func BenchmarkEval(b *testing.B) {
	for _, text := range []string{"Kiln1.DryBulb - Kiln1.WetBulb", "Kiln1.DryBulb > 70 and Kiln1.Fan[2].Running"} {
		b.Run(text, func(b *testing.B) {
			stored, _ := Store(text, kiln.find, nil)
			p, err := Compile(stored, kiln.scope())
			if err != nil {
				b.Fatal(err)
			}
			f := &Frame{Slots: kiln.slots()}
			var v value.Value
			for b.Loop() {
				v = p.Eval(f)
			}
			_ = v
		})
	}
}
