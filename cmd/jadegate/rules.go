package main

import (
	"errors"
	"fmt"
	"os"

	"jadegate/core/quantity"
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

func checkPolicy(file string) error {
	raw, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	h, err := rules.ReadPolicy(raw)
	if err != nil {
		return badFile(file, err)
	}
	fmt.Printf("%s: sound. %s, version %d, as of %s\n", file, h.Name, h.Version, h.AsOf)
	return nil
}

func checkPack(file string) error {
	raw, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	p, err := rules.ReadPack(raw)
	if err != nil {
		return badFile(file, err)
	}
	fmt.Printf("%s: sound. %s, version %d, as of %s, %d classes\n", file, p.Name, p.Version, p.AsOf, len(p.Classes))
	return nil
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
		fmt.Fprintf(os.Stderr, "%s: %v\n", file, f)
	}
	return exit(exitInput)
}

func listPacks() error {
	packs := rules.Packs()
	for _, id := range rules.PackIDs() {
		p := packs[id]
		fmt.Printf("%-22s %-10s %s\n", p.ID, p.AsOf, p.Name)
	}
	return nil
}

func showPack(id string) error {
	b := rules.PackFile(id)
	if b == nil {
		return badInput(quantity.Bad("id", fmt.Sprintf("%q is not a shipped pack", id), "see 'jadegate packs list'"))
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
