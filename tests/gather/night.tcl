#!/usr/bin/tclsh
package require Tcl 8.6
set unit mm
array set sizes {a 1 b 2}
# label --
#   Says it.
proc label {what {size 3}} {
    global unit sizes
    return "$what in $unit $size $sizes(b)"
}
proc count {} { incr ::counter }
set counter 4
proc all {args} { return [list [label dome] [count] [count] $args] }
