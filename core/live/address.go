package live

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/source"
)

// A Word is the sixteen bits of two bytes of the inputs, the outputs or the memory, with the names that lie on them.
type Word struct {
	Address string   `json:"address"` // %IW0
	Bits    []string `json:"bits"`    // the name of each bit, "" where it has none of its own; bit 0 first
	Wide    []Wide   `json:"wide"`
}

// Wide is a variable of more than a bit. From is the number of its lowest bit in the word: below 0 where it begins in one before.
type Wide struct {
	Name string `json:"name"`
	From int    `json:"from"`
	Size int    `json:"size"` // in bits
}

const wordBits = 16

// Words lists all words on which a variable lies: inputs, outputs, memory, each ascending.
func (b *Bench) Words() []Word {
	rows := map[string]*Word{}
	var order []rowKey
	for _, v := range b.program.Variables {
		if v.Address == "" || v.Hidden {
			continue
		}
		at := source.BitsAt(v.Address)
		for n := at.From / wordBits; n*wordBits < at.To; n++ {
			key := rowKey{strings.IndexByte("IQM", at.Area), n}
			address := fmt.Sprintf("%%%cW%d", at.Area, n*2)
			if rows[address] == nil {
				rows[address] = &Word{address, make([]string, wordBits), []Wide{}}
				order = append(order, key)
			}
			rows[address].put(v, at.From-n*wordBits, at.To-at.From)
		}
	}
	slices.SortFunc(order, func(a, b rowKey) int { return (a.area-b.area)*1_000_000 + a.number - b.number })
	words := []Word{}
	for _, key := range order {
		words = append(words, *rows[fmt.Sprintf("%%%cW%d", "IQM"[key.area], key.number*2)])
	}
	return words
}

type rowKey struct{ area, number int }

// put notes a variable: a bit by its name, anything wider once, whatever other names the same address has.
func (w *Word) put(v *check.Variable, from, size int) {
	switch {
	case size == 1 && w.Bits[from] == "":
		w.Bits[from] = v.Name
	case size > 1 && !slices.ContainsFunc(w.Wide, func(x Wide) bool { return x.From == from && x.Size == size }):
		w.Wide = append(w.Wide, Wide{v.Name, from, size})
	}
}
