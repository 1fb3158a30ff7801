package main

import (
	"os"
	"strings"
	"time"

	"jadegate/core/decide"
	"jadegate/internal/bundle"
	"jadegate/internal/seal"
)

type evaluateCmd struct {
	File     string `arg:"" help:"bundle (.zip, bundle.json), or a conversion sheet (.yaml, .json)"`
	Readings string `arg:"" optional:"" help:"CSV of readings for a sheet: path,value,source,u,instrument"`
	Tools    string `help:"YAML or JSON list of the tools that the readings name"`
}

func (c evaluateCmd) Run() error {
	b, err := bundle.Read(c.File)
	if err != nil || c.Readings != "" || strings.HasSuffix(c.File, ".yaml") {
		var sheetErr error
		if b, sheetErr = bundle.FromSheet(c.File, c.Readings, c.Tools); sheetErr != nil {
			if strings.HasSuffix(c.File, ".zip") && err != nil {
				sheetErr = err
			}
			return badInput(sheetErr)
		}
	}
	_, ev, err := b.Judge(time.Now().UTC().Format(time.DateOnly))
	if err != nil {
		return badInput(err)
	}
	if err := printJSON(os.Stdout, ev); err != nil {
		return err
	}
	if ev.Verdict == decide.GateHeld || ev.Verdict == decide.GateShut {
		return exit(exitJudged)
	}
	return nil
}

type verifyCmd struct {
	File  string `arg:"" help:"bundle (.zip or bundle.json)"`
	Paper string `help:"the 16 digits that the report prints"`
	Key   string `type:"existingfile" help:"file of the workshop's public keys, one a line, as 'key show' prints them: whatever was not sealed by one of them is refused"`
}

func (c verifyCmd) Run() error {
	b, err := bundle.Read(c.File)
	if err != nil {
		return badInput(err)
	}
	if bad, err := b.Verify(); err != nil {
		printf("broken at entry %d: %v\n", bad, err)
		return exit(exitJudged)
	}
	var keys []string
	by := "its seal not compared with a key"
	if c.Key != "" {
		if keys, err = seal.ReadPublic(c.Key); err != nil {
			return err
		}
		by = "sealed by the workshop's key"
		if !b.SealsAll() {
			by += ", by an earlier edition: its log, not the policy, packs and kit sheets beside it"
		}
	}
	if err := b.Sealed(keys); err != nil {
		printf("not the workshop's: %v\n", err)
		return exit(exitJudged)
	}
	head := b.Entries[len(b.Entries)-1].Hash[:16]
	switch paper := strings.ToLower(strings.ReplaceAll(c.Paper, " ", "")); {
	case paper == "":
		printf("whole in itself: %d entries, %s; %s; not compared with paper\n", len(b.Entries), head, by)
	case paper != head:
		printf("not the one on paper: this one is %s, the paper says %s\n", head, paper)
		return exit(exitJudged)
	default:
		printf("sound: %d entries, %s, as on paper; %s\n", len(b.Entries), head, by)
	}
	return nil
}
