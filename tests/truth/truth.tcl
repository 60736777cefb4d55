# What Tcl itself makes of a file: each procedure that `proc` is called for at the outermost level or in a namespace,
# with its line and its arguments.
#
#   tclsh truth.tcl FILE      prints: NAME <tab> LINE <tab> ARGUMENTS
set file [lindex $argv 0]
set argv {}
set facts {}
rename proc truth_proc
truth_proc proc {name arguments body} {
    set frame [info frame -1]
    set own [uplevel 1 {namespace current}]
    if {[dict exists $frame file] && [dict get $frame file] eq [file normalize $::file]} {
        set names {}
        foreach one $arguments { lappend names [lindex $one 0] }
        set full [expr {[string match ::* $name] ? $name : "${own}::$name"}]
        lappend ::facts [list ::[string trimleft $full :] [dict get $frame line] $names]
    }
    uplevel 1 [list truth_proc $name $arguments $body]
}
catch {source -encoding utf-8 [file normalize $file]}
set last {}
foreach fact $facts { dict set last [lindex $fact 0] $fact }
foreach {name fact} $last { puts [join [list [namespace tail $name] [lindex $fact 1] [join [lindex $fact 2] " "]] \t] }
