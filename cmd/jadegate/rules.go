package main

import (
	"errors"
	"fmt"
	"os"

	"jadegate/core/limits"
	"jadegate/core/policy"
	"jadegate/core/quantity"
	"jadegate/core/vehicle"
	"jadegate/internal/docs"
	"jadegate/internal/rules"
)

type policyCmd struct {
	Check struct {
		File string `arg:"" help:"house policy (YAML)"`
	} `cmd:"" help:"Check a house policy file."`
	Show struct{} `cmd:"" help:"Print the shipped house policy."`
}

type packsCmd struct {
	List struct{} `cmd:"" help:"List the shipped rule packs."`
	Show struct {
		ID string `arg:"" help:"id of a pack"`
	} `cmd:"" help:"Print a shipped rule pack."`
	Check struct {
		File string `arg:"" help:"rule pack (YAML)"`
	} `cmd:"" help:"Check a rule pack file."`
}

type kitsCmd struct {
	Check struct {
		File string `arg:"" help:"kit sheet (YAML)"`
	} `cmd:"" help:"Check a kit sheet file."`
}

// check reads a file and tells what it holds, or each fault with its line.
func check[T any](file string, read func([]byte) (*T, error), tell func(*T) string) error {
	raw, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	v, err := read(raw)
	if err != nil {
		return badFile(file, err)
	}
	printf("%s: sound. %s\n", file, tell(v))
	return nil
}

func checkPolicy(file string) error {
	return check(file, rules.ReadPolicy, func(h *policy.House) string {
		return fmt.Sprintf("%s, version %d, as of %s", h.Name, h.Version, h.AsOf)
	})
}

func checkPack(file string) error {
	return check(file, rules.ReadPack, func(p *limits.RulePack) string {
		return fmt.Sprintf("%s, version %d, as of %s, %d classes", p.Name, p.Version, p.AsOf, len(p.Classes))
	})
}

func checkKit(file string) error {
	return check(file, rules.ReadKit, func(k *vehicle.Kit) string {
		return fmt.Sprintf("%s, %s, %d kinds of fasteners, %d codes", k.Name, k.Edition, len(k.Bolts), len(k.Codes))
	})
}

// badFile prints each fault with its line.
func badFile(file string, err error) error {
	var faults []error
	if j, ok := err.(interface{ Unwrap() []error }); ok {
		faults = j.Unwrap()
	} else {
		faults = []error{err}
	}
	for _, f := range faults {
		fprintf(os.Stderr, "%s: %v\n", file, f)
	}
	return exit(exitInput)
}

func listPacks() error {
	packs := rules.Packs()
	for _, id := range rules.PackIDs() {
		p := packs[id]
		printf("%-22s %-10s %s\n", p.ID, p.AsOf, p.Name)
	}
	return nil
}

func showPack(id string) error {
	b := rules.PackFile(id)
	if b == nil {
		return badInput(quantity.Invalid("id", fmt.Sprintf("%q is not a shipped pack", id), "see 'jadegate packs list'"))
	}
	_, err := os.Stdout.Write(b)
	return err
}

type docsCmd struct {
	Root     string `arg:"" default:"." help:"directory of the project"`
	Examples string `default:"core/calc/testdata" help:"directory of the worked cases"`
}

func (c docsCmd) Run() error {
	if c.Root == "" {
		return errors.New("no directory given")
	}
	return docs.Write(c.Root, c.Examples)
}
