package credential_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/credential"
)

func TestWhichPasswordsAreTaken(t *testing.T) {
	for password, says := range map[string]string{
		"":                               "it has 0 characters",
		"regatta":                        "it has 7 characters",
		"fourteen chars":                 "it has 14 characters",
		strings.Repeat("ö", 201):         "it has 201 characters",
		"passwordpassword":               "tried first",
		"123456789012345":                "tried first",
		"qwertyuiopasdfgh":               "tried first",
		"aaaaaaaaaaaaaaaaaaa":            "tried first",
		"ana.prado@pedralta.example":     "tried first",
		"crane lantern ochre willow":     "",
		"Der Kahn liegt im Schilf, 1908": "",
		"wie die Ruder im Wasser schlagen, so zählt der Steuermann bis zwölf und lässt dann laufen": "",
		"a2F#9vv!kd_0qwZ":             "",
		"ruedas que nadie ha contado": "",
		"日本の湖に舟が三艘ある、櫂は六本":            "",
	} {
		err := credential.Judge(password, "Ana Prado", "ana.prado@pedralta.example")
		if says == "" {
			assert.NoError(t, err, password)
		} else if assert.Error(t, err, password) {
			assert.Contains(t, err.Error(), says, password)
		}
	}
}

func TestAPasswordIsTheSameHoweverItIsTyped(t *testing.T) {
	ctx := context.Background()
	long := strings.Repeat("oar and boat ", 12)
	for _, password := range []string{"gr\u00fcne Ufer am See", long} {
		hash, err := credential.Hash(password)
		require.NoError(t, err)
		assert.NotContains(t, hash, password)
		for try, want := range map[string]bool{password: true, password + "x": false, "": false,
			strings.ToUpper(password): false} {
			got, err := credential.Matches(ctx, hash, try)
			require.NoError(t, err)
			assert.Equal(t, want, got, try)
		}
	}
	hash, err := credential.Hash("gr\u00fcne Ufer am See")
	require.NoError(t, err)
	same, err := credential.Matches(ctx, hash, "gru\u0308ne Ufer am See")
	require.NoError(t, err)
	assert.True(t, same, "composed or not")
	none, err := credential.Matches(ctx, "", "")
	require.NoError(t, err)
	assert.False(t, none, "nobody's")
}

// RFC 6238, appendix B, the last six of its eight digits for SHA-1.
func TestCodesOfTheSecondFactor(t *testing.T) {
	secret := []byte("12345678901234567890")
	for at, code := range map[int64]string{59: "287082", 1111111109: "081804", 1234567890: "005924",
		20000000000: "353130"} {
		now := time.Unix(at, 0)
		step, ok := credential.Step(secret, code[:3]+" "+code[3:], now)
		assert.True(t, ok, code)
		assert.Equal(t, at/30, step)
		for by, want := range map[int]bool{30: true, -30: true, 90: false, -90: false} {
			_, ok := credential.Step(secret, code, now.Add(time.Duration(by)*time.Second))
			assert.Equal(t, want, ok, by)
		}
	}
	_, ok := credential.Step(secret, "", time.Unix(59, 0))
	assert.False(t, ok)
	made := credential.NewSecret()
	code, err := totp.GenerateCode(strings.ReplaceAll(credential.Written(made), " ", ""), time.Now())
	require.NoError(t, err)
	_, ok = credential.Step(made, code, time.Now())
	assert.True(t, ok, "a program that reads the secret agrees")
	assert.Contains(t, credential.Address(made, "ana@pedralta.example", "Lazo"),
		"otpauth://totp/Lazo:ana@pedralta.example?")
}

func TestCodesThatStandInForIt(t *testing.T) {
	codes, hashes := credential.Recovery()
	require.Len(t, codes, 10)
	seen := map[string]bool{}
	for i, code := range codes {
		assert.Regexp(t, `^[a-z2-7]{4}(-[a-z2-7]{4}){5}$`, code)
		assert.False(t, seen[code])
		seen[code] = true
		assert.Equal(t, hashes[i], credential.RecoveryHash(strings.ToUpper(strings.ReplaceAll(code, "-", " "))))
	}
}
