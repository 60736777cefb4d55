# What Perl itself has after reading a file: the named subs that the file defines, each with its line.
#
#   perl truth.pl FILE      prints: NAME <tab> LINE
use strict;
use warnings;
my ($file) = @ARGV;
if (!$ENV{TRUTH_RUNS}) {
    $ENV{TRUTH_RUNS} = 1;
    $ENV{PERL5DB} = 'sub DB::DB {}';
    exec $^X, '-d', $0, $file;
}
@ARGV = ();
open STDERR, '>', '/dev/null';
my $read = eval { require $file; 1 };
exit 1 unless $read;
open my $text, '<', $file or exit 1;
my @lines = ('', <$text>);
my (%last, %told);    # lines by whole names; names without their packages
for my $name (keys %DB::sub) {
    my ($from, $line) = $DB::sub{$name} =~ /^(.*):(\d+)-\d+$/ or next;
    next unless $from eq $file;
    my ($short) = $name =~ /([^:]+)$/;
    next if $short =~ /^(?:BEGIN|END|INIT|CHECK|UNITCHECK|__ANON__.*)$/ || $short =~ /[][]/;
    # Perl tells where the body opens; the name may stand above.
    for (my $up = $line; $up > 0 && $up > $line - 4; --$up) {
        if ($lines[$up] =~ /\bsub\s+(?:\w+::)*\Q$short\E\b/) { $line = $up; last }
    }
    $last{$name} = $line;
    $told{$short} = 1;
}
# Those that are made constants on the way are in no debugger's list.
my @packages = ('main', map { /^\s*package\s+([\w:]+)/ ? $1 : () } @lines);
for my $at (1 .. $#lines) {
    my ($name) = $lines[$at] =~ /^\s*sub\s+(\w+)\s*\(\)\s*\{/ or next;
    next if $told{$name};
    no strict 'refs';
    $last{$name} = $at if grep { defined &{"${_}::$name"} } @packages;
}
print /([^:]+)$/, "\t$last{$_}\n" for sort keys %last;
