package exchange_test

import (
	"fmt"
	"strings"

	"lazo/core/exchange"
)

func ExampleReadList() {
	list, err := exchange.ReadList(strings.NewReader("code,name\nn,North pier\ns,South pier\n"))
	fmt.Println(len(list), list[1].Text("name"), err)
	// Output: 2 South pier <nil>
}
