package plant

import "testing"

// What a script breaks it mends again: at its end no fault is left.
func TestTheScriptLeavesNothingBroken(t *testing.T) {
	on := map[string]bool{}
	came := map[string]int{}
	for _, a := range Script {
		if a.Fault == "" {
			continue
		}
		if _, ok := Faults[a.Fault]; !ok {
			t.Fatalf("there is no fault %s", a.Fault)
		}
		if a.On && !on[a.Fault] {
			came[a.Fault]++
		}
		on[a.Fault] = a.On
	}
	for name, still := range on {
		// The plant takes the link's fault back by itself.
		if still && name != "link" {
			t.Errorf("%s stays", name)
		}
	}
	// That a chamber is deaf would be seen by nobody who hands no schedule over.
	if len(came) != len(Faults)-1 || came["deaf"] > 0 || came["fan3"] < 6 {
		t.Errorf("faults that come: %v", came)
	}
	p := New(1, 1)
	p.act(Act{Fault: "fan2", On: true})
	p.run(2)
	if !p.chambers[0].fans[1].tripped {
		t.Error("the fan does not trip")
	}
	p.act(Act{Fault: "fan2"})
	p.act(Act{On: true})
	p.run(2)
	if p.chambers[0].fans[1].tripped {
		t.Error("the reset does not take it back")
	}
}
