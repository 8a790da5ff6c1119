# Puts letters into conversations by their References and In-Reply-To, as mail programs do
# (Mail::Thread, the algorithm of J. Zawinski): one line a letter, its depth and subject.
use strict;
use warnings;
use Email::Simple;
use Mail::Thread;

my @letters = map { local $/; open my $file, '<', $_ or die "$_: $!"; Email::Simple->new(scalar <$file>) } @ARGV;
my $threader = Mail::Thread->new(@letters);
$threader->thread;
show($_, 0) for $threader->rootset;

sub show {
    my ($one, $depth) = @_;
    print "$depth ", ($one->message ? $one->message->header('Subject') : '-'), "\n";
    show($one->child, $depth + 1) if $one->child;
    show($one->next, $depth) if $one->next;
}
