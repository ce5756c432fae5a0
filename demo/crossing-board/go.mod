module kelpwick.example/crossing-board

go 1.22
