// Command jadegate is the whole application: the server with its screens, and
// the same rules on the command line without a server.
package main

import (
	"errors"
	"fmt"
	"os"

	"github.com/alecthomas/kong"

	"jadegate/core/judge/bind"
	"jadegate/core/say"
	"jadegate/core/schema"
	"jadegate/internal/api"
	"jadegate/internal/language"
	"jadegate/internal/picture"
	"jadegate/internal/rules"
	"jadegate/internal/workshop"
)

type cli struct {
	Config kong.ConfigFlag `placeholder:"FILE" help:"Flags from a file (YAML), a name and a value a line. The command line goes before the environment (JADEGATE_DATA_DIR for --data-dir), that before the file."`
	Words  string          `type:"existingfile" placeholder:"FILE" help:"Words of another language (PO, made from docs/words.pot): the screens, the papers and what is computed speak it."`

	Serve    serveCmd    `cmd:"" help:"Run the application on its own data."`
	Demo     demoCmd     `cmd:"" help:"Run the application with the demo workshop in a fresh data directory."`
	Calc     calcCmd     `cmd:"" help:"Compute: 'calc list', 'calc describe NAME', or 'calc NAME < in.json'."`
	Trace    traceCmd    `cmd:"" help:"Analyse a brake-test trace file."`
	Evaluate evaluateCmd `cmd:"" help:"Judge a bundle, or a sheet with readings."`
	Verify   verifyCmd   `cmd:"" help:"Check a bundle's hash chain and its signed verdict."`
	Rebuild  rebuildCmd  `cmd:"" help:"Drop the board's projection and fill it from the logs."`
	Backup   backupCmd   `cmd:"" help:"Copy the data into one file while the server runs, and check the copy."`
	Check    checkCmd    `cmd:"" help:"Read all data, or a backup, through and through, and name what is not as it was written."`
	Restore  restoreCmd  `cmd:"" help:"Bring a backup into an empty data directory."`
	User     userCmd     `cmd:"" help:"Who works here."`
	Key      keyCmd      `cmd:"" help:"The workshop's key, which seals signatures and bundles."`
	Policy   policyCmd   `cmd:"" help:"House policy files."`
	Packs    packsCmd    `cmd:"" help:"Rule packs."`
	Rig      rigCmd      `cmd:"" help:"The simulated vehicle with its devices, by itself."`
	Kits     kitsCmd     `cmd:"" help:"Kit sheets."`
	Openapi  openapiCmd  `cmd:"" help:"Print the OpenAPI document."`
	Docs     docsCmd     `cmd:"" hidden:"" help:"Write the documents that are made from the code."`
}

// exit is an error that only sets the exit code; its text is printed already.
type exit int

func (e exit) Error() string { return fmt.Sprintf("exit %d", int(e)) }

// Exit codes: bad input is told apart from a judgement that is not a pass.
const (
	exitJudged = 1
	exitInput  = 2
)

func main() {
	picture.Work()
	var c cli
	ctx := kong.Parse(&c, kong.Name("jadegate"), kong.Description("Safety inspection of e-bike and trike conversions."), kong.UsageOnError(),
		kong.DefaultEnvars(envPrefix), kong.Configuration(readConfig))
	err := speak(c.Words)
	if err == nil {
		err = run(ctx, &c)
	}
	var code exit
	switch {
	case err == nil:
	case errors.As(err, &code):
		os.Exit(int(code))
	case len(schema.FieldErrors(err)) > 0:
		os.Exit(int(badInput(err)))
	default:
		fprintf(os.Stderr, "jadegate: %v\n", err)
		os.Exit(1)
	}
}

// speak sets the language of everything said; without a file it is English.
func speak(file string) error {
	if file == "" {
		return nil
	}
	raw, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	l, err := language.Read(raw)
	if err != nil {
		return err
	}
	say.Speak(l)
	return nil
}

// run does what the command line asks; commands without fields of their own are
// told apart by their path.
func run(ctx *kong.Context, c *cli) error {
	if err := bind.Declared(); err != nil {
		return err
	}
	switch ctx.Command() {
	case "policy check <file>":
		return checkPolicy(c.Policy.Check.File)
	case "policy show":
		_, err := os.Stdout.Write(rules.HouseFile())
		return err
	case "key show":
		return showKey(c.Key.DataDir)
	case "key rotate":
		return rotateKey(c.Key.DataDir)
	case "packs list":
		return listPacks()
	case "packs show <id>":
		return showPack(c.Packs.Show.ID)
	case "kits check <file>":
		return checkKit(c.Kits.Check.File)
	case "packs check <file>":
		return checkPack(c.Packs.Check.File)
	}
	return ctx.Run()
}

// badInput writes problem JSON that names the fields to standard error.
func badInput(err error) exit {
	p := api.Problem{Title: "Cannot be used", Status: 422, Detail: err.Error()}
	for _, f := range schema.FieldErrors(err) {
		p.Errors = append(p.Errors, *f)
	}
	if len(p.Errors) > 0 {
		p.Detail = p.Errors[0].Error()
	}
	_ = printJSON(os.Stderr, p) // standard error is all there is
	return exitInput
}

type openapiCmd struct{}

func (openapiCmd) Run() error {
	_, a := api.New(&workshop.Workshop{}, nil, api.Options{})
	return printJSON(os.Stdout, a.OpenAPI())
}
