package signin

import (
	"fmt"
	"time"

	"lazo/core/text"
	"lazo/notify"
	"lazo/store"
	"lazo/web/desk/layout"
)

// askedReset is the letter to who forgot their password.
func askedReset(a store.Account) layout.Notice {
	return layout.Notice{Subject: "another password", About: store.AboutReset + fmt.Sprint(a.ID),
		Text: "somebody, most likely you, asked for another password for this address. Set one here, within an hour:\n\n" +
			notify.OnceLink +
			"\n\nIf it was not you, leave it: your password stays as it is."}
}

// NewAddress is the letter to the address that is to be an account's.
func NewAddress(of store.AccountID, email string) layout.Notice {
	return layout.Notice{Subject: "is this your address?", About: store.AboutAddress + fmt.Sprint(of) + " " + email,
		Text: "whoever has this account wants to sign in by this address from now on. Confirm it here, within an hour:\n\n" +
			notify.OnceLink +
			"\n\nIf it was not you, leave it: nothing changes."}
}

// moved is the letter to the address that an account had.
func moved(to string) layout.Notice {
	return layout.Notice{Subject: "your e-mail address was changed",
		Text: "you sign in by " + text.Escape(to) +
			" from now on, and this is the last letter to this address. If it was not you, " +
			"write to whoever runs this installation at once."}
}

func usedRecovery(left int) layout.Notice {
	return layout.Notice{Subject: "a code stood in for your second factor",
		Text: fmt.Sprintf("you were signed in with a code that stands in for your second factor; %d are left. If it was not you, "+
			"change your password and end all sign-ins on the page of your account.", left)}
}

// WasReset tells of a password that was set by an address.
func wasReset() layout.Notice {
	return layout.Notice{Subject: "your password was set anew",
		Text: "your password was set anew by an address from a letter, and all sign-ins were ended. If it was not you, ask for another one at once."}
}

// factorGoes tells that the second factor is to be taken off.
func factorGoes(a store.Account, at time.Time) layout.Notice {
	return layout.Notice{Subject: "your second factor will be taken off", About: store.AboutFactor + fmt.Sprint(a.ID),
		Text: "somebody, most likely you, has set your password anew and said that the second factor is lost. On " +
			moment(at) +
			" it is taken off; from then on your password alone is asked for. If you find it again, sign in with a code before then: it stays.\n\n" +
			"If it was not you, keep it here, and ask for another password at once:\n\n" + notify.OnceLink}
}

// factorWent tells that it was.
func factorWent() layout.Notice {
	return layout.Notice{Subject: "your second factor was taken off",
		Text: "your second factor was taken off, as was asked for three days ago. Signing in asks for your password alone from now on; " +
			"set up another factor on the page of your account. If it was not you, ask for another password at once, and write to whoever runs this installation."}
}

// moment is a moment as letters of the door say it.
func moment(at time.Time) string { return at.UTC().Format("2 January 2006, 15:04") + " (UTC)" }

// Invitation is the letter to who is asked to become a member.
func Invitation(i store.Invited, workspace, by string) store.Letter {
	return store.Letter{Message: "invitation", Name: "Invitation", Recipient: i.Email,
		Subject: "Invitation to " + workspace,
		About:   store.AboutInvitation + fmt.Sprint(i.ID), Reason: "Sent since an owner invited its recipient.",
		Body: text.Escape(by) + " asks you to work on the forms of " + text.Escape(workspace) + " with them, as " +
			Called(i.Role) +
			".\n\nCome in here, within seven days:\n\n" + notify.OnceLink +
			"\n\nIf you do not know of it, leave it: nothing comes of it."}
}

// Called is a role with its article.
func Called(r store.Role) string {
	if r == store.Owner {
		return "an owner"
	}
	return "a " + string(r)
}
