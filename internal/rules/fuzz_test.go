package rules

import (
	"testing"

	"jadegate/core/schema"
)

// FuzzRead hands anything in as a kit sheet, a rule pack and a house policy: each is read,
// or refused with an error that names a field.
func FuzzRead(f *testing.F) {
	f.Add(HouseFile())
	for _, dir := range []string{"kits", "packs"} {
		all, err := files.ReadDir(dir)
		if err != nil {
			f.Fatal(err)
		}
		for _, x := range all {
			raw, err := files.ReadFile(dir + "/" + x.Name())
			if err != nil {
				f.Fatal(err)
			}
			f.Add(raw)
		}
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		_, kit := ReadKit(raw)
		_, pack := ReadPack(raw)
		_, house := ReadPolicy(raw)
		for _, err := range []error{kit, pack, house} {
			if err != nil && len(schema.FieldErrors(err)) == 0 {
				t.Errorf("names no field: %v", err)
			}
		}
	})
}
