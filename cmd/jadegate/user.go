package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"strings"

	"golang.org/x/term"

	"jadegate/internal/account"
)

type userCmd struct {
	Add      userAdd      `cmd:"" help:"Take somebody in, while no server runs. The password is asked for, or read as one line from standard input."`
	Password userPassword `cmd:"" help:"Give somebody a new password, while no server runs; codes are asked for no more."`
	List     userList     `cmd:"" help:"List who works here."`
}

type userAdd struct {
	Name string `arg:"" help:"Name, as it will stand in the records."`
	Role string `enum:"lead,inspector,helper,guest" default:"lead" help:"lead, inspector, helper or guest."`
	dataFlags
}

type userPassword struct {
	Name string `arg:"" help:"Name or id."`
	dataFlags
}

type userList struct{ dataFlags }

// operator is the name under which the command line changes registers.
const operator = "the machine's operator"

func withBook(d dataFlags, do func(ctx context.Context, b *account.Book) error) error {
	w, err := openWorkshop(d)
	if err != nil {
		return err
	}
	return errors.Join(do(context.Background(), w.Book), w.Store.Close())
}

func (c userAdd) Run() error {
	return withBook(c.dataFlags, func(ctx context.Context, b *account.Book) error {
		password, err := askPassword(c.Name)
		if err != nil {
			return err
		}
		p, err := b.Add(ctx, operator, c.Name, c.Role, password)
		if err == nil {
			printf("%s is here as %s\n", p.Name, p.Role)
		}
		return err
	})
}

func (c userPassword) Run() error {
	return withBook(c.dataFlags, func(ctx context.Context, b *account.Book) error {
		p, err := b.Person(ctx, c.Name)
		if err != nil {
			return fmt.Errorf("%q: %w", c.Name, err)
		}
		password, err := askPassword(p.Name)
		if err != nil {
			return err
		}
		return errors.Join(b.SetPassword(ctx, p.ID, password), b.EndCodes(ctx, p.ID))
	})
}

func (c userList) Run() error {
	return withBook(c.dataFlags, func(ctx context.Context, b *account.Book) error {
		all, err := b.People(ctx)
		for _, p := range all {
			left := ""
			if p.Left != "" {
				left = "left " + p.Left
			}
			printf("%-30s %-10s %s\n", p.Name, p.Role, left)
		}
		return err
	})
}

// askPassword asks at a terminal without showing what is typed, else reads one line.
func askPassword(name string) (string, error) {
	in := int(os.Stdin.Fd())
	if !term.IsTerminal(in) {
		line, err := bufio.NewReader(os.Stdin).ReadString('\n')
		if line == "" && err != nil {
			return "", fmt.Errorf("the password: %w", err)
		}
		return strings.TrimRight(line, "\r\n"), nil
	}
	fprintf(os.Stderr, "Password for %s: ", name)
	raw, err := term.ReadPassword(in)
	fmt.Fprintln(os.Stderr)
	return string(raw), err
}
