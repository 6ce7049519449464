package main

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"lazo/credential"
	"lazo/store"
)

// site is where the application is reached, for the addresses that commands print.
type site struct {
	Base string `help:"The address at which the application is reached." default:"http://127.0.0.1:8080" env:"LAZO_BASE_URL"`
}

func (c site) address(path string) string { return strings.TrimSuffix(c.Base, "/") + path }

type accountCmd struct {
	Add    accountAddCmd    `cmd:"" help:"Add an account, and print an address at which its password is set."`
	Reset  accountResetCmd  `cmd:"" help:"Print an address, good once, at which the password of an account is set anew."`
	End    accountEndCmd    `cmd:"" help:"End all sign-ins of an account, or of everybody."`
	Delete accountDeleteCmd `cmd:"" help:"Delete an account with its memberships; what its owner made stays, without their name."`
}

type accountEndCmd struct {
	database
	Email    string `arg:"" optional:"" help:"The e-mail address of the account."`
	Everyone bool   `help:"End those of everybody."`
}

// Run ends sign-ins.
func (c *accountEndCmd) Run() error {
	if (c.Email == "") != c.Everyone {
		return errors.New("name an account, or say --everyone")
	}
	return c.withStore(func(ctx context.Context, s *store.Store) error {
		if c.Everyone {
			return s.EndAllSignIns(ctx)
		}
		a, err := s.AccountByEmail(ctx, c.Email)
		if errors.Is(err, store.ErrNotFound) {
			return fmt.Errorf("there is no account %s", c.Email)
		}
		if err != nil {
			return err
		}
		return s.EndOtherSignIns(ctx, a.ID, "")
	})
}

type accountDeleteCmd struct {
	database
	Email string `arg:"" help:"The e-mail address of the account."`
}

// Run deletes an account.
func (c *accountDeleteCmd) Run() error {
	return c.withStore(func(ctx context.Context, s *store.Store) error {
		a, err := s.AccountByEmail(ctx, c.Email)
		if errors.Is(err, store.ErrNotFound) {
			return fmt.Errorf("there is no account %s", c.Email)
		}
		if err == nil {
			err = s.DeleteAccount(ctx, a.ID)
		}
		if errors.Is(err, store.ErrLastOwner) {
			return fmt.Errorf("%s is the last owner of a workspace; make somebody else one first", c.Email)
		}
		return err
	})
}

type accountAddCmd struct {
	database
	site
	Email     string `arg:"" help:"The e-mail address that its owner signs in with."`
	Name      string `help:"The owner's name, as others see it." required:""`
	Workspace string `help:"The name of a workspace that it becomes a member of."`
	Role      string `help:"As what: owner, designer or reader." enum:"owner,designer,reader" default:"designer"`
}

// Run adds an account that has no password yet.
func (c *accountAddCmd) Run() error {
	email, name := credential.Email(c.Email), credential.Name(c.Name)
	if email == "" || name == "" {
		return errors.New("an account needs an e-mail address and a name")
	}
	return c.withStore(func(ctx context.Context, s *store.Store) error {
		var w store.Workspace
		if c.Workspace != "" {
			var err error
			if w, err = s.WorkspaceNamed(ctx, c.Workspace); err != nil {
				return err
			}
		}
		a, err := s.AddAccount(ctx, store.Account{Email: email, Name: name})
		if errors.Is(err, store.ErrConflict) {
			return fmt.Errorf("%s has an account already; lazo account reset makes an address for it", email)
		}
		if err != nil {
			return err
		}
		if w.ID != 0 {
			if _, err := s.CreateMember(ctx,
				store.Member{WorkspaceID: w.ID, Email: email, Role: store.Role(c.Role)}); err != nil {
				return err
			}
		}
		return c.print(ctx, s, a)
	})
}

// print makes an address for a password, and prints it.
func (c site) print(ctx context.Context, s *store.Store, a store.Account) error {
	secret, err := s.AddToken(ctx, store.Token{Kind: store.Reset, Account: a.ID}, store.FirstLasts)
	if err != nil {
		return err
	}
	fmt.Printf("The password of %s is set at this address, good once and for a day:\n%s\n", a.Email,
		c.address("/reset/"+secret))
	return nil
}

type accountResetCmd struct {
	database
	site
	Email  string `arg:"" help:"The e-mail address of the account."`
	Second bool   `help:"Take off the second factor as well, of who lost the device and the codes."`
}

// Run prints an address by which a password is set.
func (c *accountResetCmd) Run() error {
	return c.withStore(func(ctx context.Context, s *store.Store) error {
		a, err := s.AccountByEmail(ctx, c.Email)
		if errors.Is(err, store.ErrNotFound) {
			return fmt.Errorf("there is no account %s", c.Email)
		}
		if err != nil {
			return err
		}
		if c.Second {
			if err := s.SetTOTP(ctx, a.ID, nil, nil, 0); err != nil {
				return err
			}
		}
		return c.print(ctx, s, a)
	})
}

type workspaceCmd struct {
	Add workspaceAddCmd `cmd:"" help:"Add a workspace, whose owner has an account."`
}

type workspaceAddCmd struct {
	database
	Name  string `arg:"" help:"The workspace's name."`
	Owner string `help:"The e-mail address of an account, which becomes its owner." required:""`
}

// Run adds a workspace.
func (c *workspaceAddCmd) Run() error {
	name := credential.Name(c.Name)
	if name == "" {
		return errors.New("a workspace needs a name")
	}
	return c.withStore(func(ctx context.Context, s *store.Store) error {
		if _, err := s.AccountByEmail(ctx, c.Owner); errors.Is(err, store.ErrNotFound) {
			return fmt.Errorf("there is no account %s; lazo account add makes one", c.Owner)
		} else if err != nil {
			return err
		}
		w, err := s.CreateWorkspace(ctx, name)
		if err != nil {
			return err
		}
		if _, err := s.CreateMember(ctx, store.Member{WorkspaceID: w.ID, Email: c.Owner}); err != nil {
			return err
		}
		fmt.Printf("%s was made, and %s is its owner.\n", w.Name, c.Owner)
		return nil
	})
}

// withStore runs a command on the database, whose schema is up to date.
func (d database) withStore(run func(ctx context.Context, s *store.Store) error) error {
	ctx := context.Background()
	s, err := d.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := s.Migrate(ctx); err != nil {
		return err
	}
	return run(ctx, s)
}

type keysCmd struct {
	Change keysChangeCmd `cmd:"" help:"Sign with a new key from now on, while the application runs. What an older one signed is good for 60 days more."`
	Drop   keysDropCmd   `cmd:"" help:"Forget all older keys at once, when one has become known: pages that lie open have to be begun anew."`
}

type keysChangeCmd struct{ database }

// Run makes a new key.
func (c *keysChangeCmd) Run() error {
	return c.withStore(func(ctx context.Context, s *store.Store) error {
		if err := s.ChangeKey(ctx, store.TicketKeys); err != nil {
			return err
		}
		fmt.Println("A new key signs from now on; within half a minute all copies know it.")
		return nil
	})
}

type keysDropCmd struct{ database }

// Run makes a new key, and forgets those before.
func (c *keysDropCmd) Run() error {
	return c.withStore(func(ctx context.Context, s *store.Store) error {
		if err := s.ChangeKey(ctx, store.TicketKeys); err != nil {
			return err
		}
		if err := s.DropOlderKeys(ctx, store.TicketKeys); err != nil {
			return err
		}
		fmt.Println("What older keys signed is not good any more; within half a minute all copies know it.")
		return nil
	})
}
