package sailings

import (
	"os"
	"strings"
	"testing"
)

func TestReadTimetable(t *testing.T) {
	file, err := os.Open("../../data/timetable.csv")
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	timetable, err := ReadTimetable(file)
	if err != nil || len(timetable) != 4 {
		t.Fatalf("read %d sailings, %v", len(timetable), err)
	}
	if got := timetable[0].String(); got != "07:45 Petrel to Gull Island" {
		t.Errorf("the first sailing is %q", got)
	}
}

func TestReadTimetableRefusesBadRows(t *testing.T) {
	for _, text := range []string{"ship,from,to,leaves\nPetrel,a,b,noon\n", "a,b\nc,d\n"} {
		if _, err := ReadTimetable(strings.NewReader(text)); err == nil {
			t.Errorf("%q is accepted", text)
		}
	}
}
