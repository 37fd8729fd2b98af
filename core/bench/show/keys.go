package show

import "slatebell/core/bench"

// Worked returns the values between which an input moves when a hand works a key of an edit: while it is
// pressed, and once it is let go. A button is 1 and 0; a signal goes beyond the key's level by more than its
// hysteresis, and back to where it rests.
func Worked(k *bench.Key, in *bench.Input) (pressed, let float64) {
	if in.Kind == string(Button) {
		return 1, 0
	}
	beyond := in.Signal.Hysteresis + 1
	if k.On == "below" {
		beyond = -beyond
	}
	return k.Level + beyond, in.Signal.Start
}
