package i2cbus

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
)

func named(t testing.TB, names ...string) []Wish {
	t.Helper()
	wishes := make([]Wish, len(names))
	for i, name := range names {
		p, ok := ByName(name)
		if !ok {
			t.Fatalf("no part %s", name)
		}
		wishes[i] = Wish{Part: p}
	}
	return wishes
}

// lawful reports whether an assignment keeps every rule: each its own address, of
// those it can have; a channel clear of the bus; nothing on what answers beside
// its own.
func lawful(wishes []Wish, a Assignment) error {
	left := 0
	for i, w := range wishes {
		if a.At[i] == 0 {
			left++
			continue
		}
		if w.Held && a.At[i] != w.Now || !w.Held && !w.Part.Can(a.At[i]) {
			return fmt.Errorf("wish %d stands at %s", i, a.At[i])
		}
		for j, o := range wishes {
			if i == j || w.On != o.On && w.On != 0 && o.On != 0 {
				continue
			}
			if a.At[i] == a.At[j] {
				return fmt.Errorf("wishes %d and %d share %s", i, j, a.At[i])
			}
			for _, extra := range o.Part.Takes {
				if a.At[i] == extra {
					return fmt.Errorf("wish %d stands where %d answers too", i, j)
				}
			}
		}
	}
	if left != len(a.Left) {
		return fmt.Errorf("%d are left out, it says %v", left, a.Left)
	}
	return nil
}

// exhaustive tries everything.
func exhaustive(wishes []Wish) (left int, cost Cost) {
	at := make([]Address, len(wishes))
	left = len(wishes) + 1
	var try func(i, out int, c Cost)
	try = func(i, out int, c Cost) {
		if out > left || out == left && c.compare(cost) >= 0 {
			return
		}
		if i == len(wishes) {
			a := Assignment{At: at}
			for j := range at {
				if at[j] == 0 {
					a.Left = append(a.Left, j)
				}
			}
			if lawful(wishes, a) == nil {
				left, cost = out, c
			}
			return
		}
		for _, a := range wishes[i].candidates() {
			at[i] = a
			d := wishes[i].cost(a)
			try(i+1, out, Cost{c.Pads + d.Pads, c.Moves + d.Moves})
		}
		at[i] = 0
		try(i+1, out+1, c)
	}
	try(0, 0, Cost{})
	return left, cost
}

// TestAssignExhaustively holds the assignment against trying everything, over
// random small sets on a bus with and without channels.
func TestAssignExhaustively(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 27))
	narrow := func(name string, from, to int) Part {
		p, _ := ByName(name)
		p.Addresses = p.Addresses[from:to]
		return p
	}
	pool := []Part{narrow("PCF8574", 5, 8), narrow("PCF8574", 5, 8), narrow("PCF8574A", 4, 7), narrow("MCP23017", 6, 8), narrow("SSD1306", 0, 2), narrow("DS3231", 0, 1), narrow("DS1307", 0, 1), narrow("TCA9548A", 0, 2), narrow("PCA9685", 46, 49)}
	tight := 0
	for range 1500 {
		wishes := make([]Wish, 1+random.IntN(5))
		channels := random.IntN(3)
		for i := range wishes {
			w := &wishes[i]
			w.Part = pool[random.IntN(len(pool))]
			w.On = random.IntN(channels + 1)
			if random.IntN(3) > 0 {
				w.Now = w.Part.Addresses[random.IntN(len(w.Part.Addresses))]
				w.Held = random.IntN(5) == 0
			}
		}
		got := Assign(wishes)
		if err := lawful(wishes, got); err != nil {
			t.Fatalf("%+v: %v", wishes, err)
		}
		left, cost := exhaustive(wishes)
		if !got.Proved {
			t.Fatalf("%+v: the search ended early", wishes)
		}
		if len(got.Left) != left || got.Cost != cost {
			t.Fatalf("%+v: %v leaves %d at %+v; everything tried leaves %d at %+v", wishes, got.At, len(got.Left), got.Cost, left, cost)
		}
		var sum Cost
		for i, a := range got.At {
			if a != 0 {
				sum = sum.plus(wishes[i].cost(a))
			}
		}
		if sum != got.Cost {
			t.Fatalf("%+v: it says %+v, it costs %+v", wishes, got.Cost, sum)
		}
		if left > 0 {
			tight++
		}
		for n, other := range Alternatives(wishes, got, 3) {
			if err := lawful(wishes, other); err != nil || other.Cost.compare(cost) < 0 || len(other.Left) > left {
				t.Fatalf("%+v: alternative %d %+v: %v", wishes, n, other, err)
			}
		}
	}
	if tight < 100 {
		t.Errorf("only %d sets did not fit", tight)
	}
}

// TestAssign holds a few whole answers.
func TestAssign(t *testing.T) {
	held := named(t, "PCF8574", "PCF8574", "MCP23017", "SSD1306")
	held[2].Now, held[2].Held = 0x27, true
	if a := Assign(held); a.Cost != (Cost{Pads: 2}) || len(a.Left) != 0 || a.At[2] != 0x27 {
		t.Errorf("two backpacks beside a held 0x27: %+v", a)
	}
	nine := named(t, "PCF8574", "PCF8574", "PCF8574", "PCF8574", "PCF8574", "PCF8574", "PCF8574", "PCF8574", "PCF8574")
	if a := Assign(nine); a.Cost != (Cost{Pads: 12}) || len(a.Left) != 1 {
		t.Errorf("nine on eight addresses: %+v", a)
	}
	nine[8].On = 1 // a channel does not hide what the bus itself carries
	if a := Assign(nine); a.Cost != (Cost{Pads: 12}) || len(a.Left) != 1 {
		t.Errorf("nine, one on a channel: %+v", a)
	}
	for i := range nine {
		nine[i].On = 1 + i/8
	}
	if a := Assign(nine); a.Cost != (Cost{Pads: 12}) || len(a.Left) != 0 {
		t.Errorf("nine on two channels: %+v", a)
	}
	moved := named(t, "PCF8574", "MCP23017")
	moved[0].Now, moved[1].Now = 0x27, 0x27
	if a := Assign(moved); a.Cost != (Cost{Moves: 1}) || a.At[0] != 0x27 {
		t.Errorf("a move is cheaper than a pad: %+v", a)
	}
	if others := Alternatives(moved, Assign(moved), 4); len(others) != 4 || others[3].Cost.Pads != 0 {
		t.Errorf("alternatives %+v", others)
	}
	// more than can be searched through: the best that was found, lawful, and not called proved
	many := named(t, slices.Repeat([]string{"PCF8574", "MCP23017", "INA219", "PCA9685"}, 20)...)
	for i := range many {
		many[i].On = i % 5
	}
	if a := Assign(many); a.Proved || lawful(many, a) != nil || len(Alternatives(many, a, 3)) != 0 {
		t.Errorf("eighty parts: proved %t, %v", a.Proved, lawful(many, a))
	}
	if a := Assign(nil); len(a.At)+len(a.Left) != 0 {
		t.Errorf("nothing: %+v", a)
	}
}

func BenchmarkAssign16(b *testing.B) {
	wishes := named(b, "PCF8574", "PCF8574", "PCF8574", "PCF8574", "PCF8574", "PCF8574", "PCF8574A", "PCF8574A", "PCF8574A", "PCF8574A", "MCP23017", "SSD1306", "DS3231", "AHT20", "INA219", "ADS1115")
	for i := range wishes {
		wishes[i].Now = wishes[i].Part.Addresses[len(wishes[i].Part.Addresses)-1]
	}
	for b.Loop() {
		if a := Assign(wishes); len(a.Left) != 0 {
			b.Fatalf("%+v", a)
		}
	}
}
