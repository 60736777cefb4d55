#!/usr/bin/perl
use strict;
use warnings;
use POSIX qw(floor);
use List::Util 'sum';
my $unit = 'mm';
my %sizes = (a => 1, b => 2);
our @more = (3);

# Says it.
sub label {
    my ($what) = @_;
    return "$what in $unit " . floor(2.5) . q{ sub x { } };
}
sub total { return sum(values %sizes, @more) } # }
sub all_of { return join '|', label('dome'), total(), map { uc } qw(a b) }
