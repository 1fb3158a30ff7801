package main

import (
	"fmt"
	"os"
	"strings"
	"time"

	"jadegate/core/decide"
	"jadegate/internal/bundle"
)

type evaluateCmd struct {
	File     string `arg:"" help:"bundle (.zip, bundle.json), or a conversion sheet (.yaml, .json)"`
	Readings string `arg:"" optional:"" help:"CSV of readings for a sheet: path,value,source,u"`
}

func (c evaluateCmd) Run() error {
	b, err := bundle.Read(c.File)
	if err != nil || c.Readings != "" || strings.HasSuffix(c.File, ".yaml") {
		var sheetErr error
		if b, sheetErr = bundle.FromSheet(c.File, c.Readings); sheetErr != nil {
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
	File string `arg:"" help:"bundle (.zip or bundle.json)"`
}

func (c verifyCmd) Run() error {
	b, err := bundle.Read(c.File)
	if err != nil {
		return badInput(err)
	}
	if bad, err := b.Verify(); err != nil {
		fmt.Printf("broken at entry %d: %v\n", bad, err)
		return exit(exitJudged)
	}
	fmt.Printf("sound: %d entries, %s\n", len(b.Entries), b.Entries[len(b.Entries)-1].Hash[:16])
	return nil
}
