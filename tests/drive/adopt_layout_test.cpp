// Modules as other people lay them out: not called like their folders, several in one, in trees of names, with
// members that come from other files. Each is adopted as it lies, and then checked and loaded in its host.
#include <doctest/doctest.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "tests/support/driver.hpp"

using namespace envar::tests;
using nlohmann::json;

namespace {

using Files = std::vector<std::pair<std::string, std::string>>;

struct Layout {
    std::string about, host;
    Files files;                            // below w/given
    std::vector<std::string> expect;        // "MODULE WHAT=VALUE" as adopt tells them
    std::vector<std::string> members = {};  // "FILE:LINE NAME(PARAMETERS)" of all modules, as members tells them
};

const std::vector<Layout> layouts = {
    {"a file in a folder called otherwise, behind its licence",
     "lua",
     {{"old-stars-2.0/stars.lua",
       "-- Copyright (c) 2019 The Varn Hill Planetarium\n-- Permission is granted to all.\n\n-- Permission is hereby granted\n-- stylecheck: ignore 212\n"
       "\n-- Places the stars, e.g.\n--   the bright ones. And more\n"
       "local stars = { _VERSION = 'stars.lua 2.0.1' }\nfunction stars.place(name) return name end\nreturn stars\n"}},
     {"stars entry=stars.lua", "stars version=2.0.1", "stars summary=Places the stars, e.g. the bright ones."},
     {"given/old-stars-2.0/stars.lua:10 place(name)"}},
    {"functions with what fish reads beside them, none of which is a module",
     "fish",
     {{"star_jump/functions/star_jump.fish",
       "function star_jump -d 'Jumps to a star.' -a star\n    echo $star\nend\n"},
      {"star_jump/functions/star_add.fish", "function star_add -a star\nend\n"},
      {"star_jump/conf.d/star_jump.fish", "set -g STARS\n"},
      {"star_jump/config.fish", "function star_fall\nend\n"}},
     {"star_jump entry=functions/star_jump.fish", "star_jump summary=Jumps to a star.", "star_jump members=1"},
     {"given/star_jump/functions/star_add.fish:1 star_add(star)"}},
    {"functions none of which is called like their folder",
     "fish",
     {{"sky_tools/functions/_sky_part.fish", "function _sky_part; end\n"},
      {"sky_tools/functions/far.fish", "function far; end\n"},
      {"sky_tools/functions/tide.fish", "function tide -d 'Tells tides.'; end\n"},
      {"sky_tools/functions/tide_next.fish", "function tide_next -a hours; end\n"},
      {"sky_tools/completions/far.fish", "complete -c far\n"},
      {"sky_tools/completions/tide.fish", "complete -c tide\n"}},
     {"tide name (guess)", "tide entry=functions/tide.fish", "tide summary=Tells tides."},
     {"given/sky_tools/functions/far.fish:1 far()", "given/sky_tools/functions/tide_next.fish:1 tide_next(hours)"}},
    {"files that the entry file reads in, by paths that it puts together",
     "bash",
     {{"far_lib/far_lib.bash",
       "# LICENSE:\n# This file is part of nothing else.\n# You may use it.\n#\n# Far things.\nparts=${BASH_SOURCE%/*}/lib/x\nhere=$(cd \"$(dirname \"${BASH_SOURCE[0]}\")\" && pwd)\nsource \"$here/lib/near.sh\" again\n"
       "for part in \"${BASH_SOURCE%/*}\"/parts/*.bash; do\n    . \"$part\"\ndone\n"
       "[[ -r $HOME/.far_lib ]] && . \"$HOME/.far_lib\"\nfar() { :; }\n"},
      {"far_lib/lib/near.sh", "near() { :; }\n. \"$parts/deep.bash\"\n_own() { :; }\nfar() { echo; }\n"},
      {"far_lib/lib/x/deep.bash",
       "deepest() { :; }\ngone() { :; }\nunset -f gone\n[[ -n $here ]] && source \"$here/lib/last.sh\"\n"},
      {"far_lib/lib/last.sh", "[ -z \"$here\" ] && . \"$here/lib/near.sh\"\n"},
      {"far_lib/parts/b.bash", "b() { :; }\n"},
      {"far_lib/parts/a.bash", "a() { :; }\n"},
      {"far_lib/parts/c.txt", "c() { :; }\n"}},
     {"far_lib members=5", "far_lib summary=Far things."},
     {"given/far_lib/far_lib.bash:13 far()", "given/far_lib/lib/near.sh:1 near()",
      "given/far_lib/lib/x/deep.bash:1 deepest()", "given/far_lib/parts/a.bash:1 a()",
      "given/far_lib/parts/b.bash:1 b()"}},
    {"libraries that the loader could not find by their names",
     "bash",
     {{"sky-lib/init.bash",
       "#!/bin/bash\n# sky-lib - Places stars\n# Written by Kim Larsen\nsource \"${BASH_SOURCE[0]%/*}/more.sh\"\nload_module tide\n"},
      {"sky-lib/more.sh", "place() { :; }\n"},
      {"sky-lib/VERSION", "v1.4.2\n"},
      {"tide/tide.sh", "TIDE_VERSION=2.1\ntide_next() { :; }\n"}},
     {"sky_lib entry=sky_lib.bash", "sky_lib version=1.4.2", "sky_lib summary=Places stars",
      "sky_lib needs tide=", "tide entry=tide.bash", "tide version=2.1.0", "tide members=1"},
     {"given/sky-lib/more.sh:1 place()", "given/tide/tide.sh:2 tide_next()"}},
    {"scripts that are read in, with functions beside them, and what comes from the shell's own folders",
     "zsh",
     {{"zsh-glow/zsh-glow.plugin.zsh",
       "# Glows.\n# v0.3.1\nautoload -Uz add-zsh-hook colors\ncolors\nsource ${0:A:h}/functions/paint.zsh\n"
       "for file (${0:A:h}/lib/*.zsh(N)) source $file\nglow_on() { : }\nfpath+=(${0:A:h}/functions)\n"},
      {"zsh-glow/functions/paint.zsh", "glow_paint() { : }\n_glow_own() { : }\n"},
      {"zsh-glow/functions/glow_off", "#autoload\nprint off\n"},
      {"zsh-glow/lib/one.zsh", "glow_one() { : }\n"}},
     {"zsh_glow entry=functions/zsh_glow", "zsh_glow version=0.3.1", "zsh_glow members=4"},
     {"given/zsh-glow/functions/glow_off:1 glow_off()", "given/zsh-glow/functions/paint.zsh:1 glow_paint()",
      "given/zsh-glow/lib/one.zsh:1 glow_one()", "given/zsh-glow/zsh-glow.plugin.zsh:7 glow_on()"}},
    {"functions in files of their own, and nothing that makes them known",
     "zsh",
     {{"dusk/functions/dusk-near", "print near\n"}, {"dusk/functions/dusk_far", "#autoload\nprint far\n"}},
     {"dusk entry=functions/dusk", "dusk members=2"},
     {"given/dusk/functions/dusk-near:1 dusk-near()", "given/dusk/functions/dusk_far:1 dusk_far()"}},
    {"libraries in folders and files with blanks in their names",
     "bash",
     {{"sky lib/sky lib.sh", "sky_one() { :; }\n. \"${BASH_SOURCE%/*}\"/'it is'/more.sh\n"},
      {"sky lib/it is/more.sh", "sky_two() { :; }\n"}},
     {"sky_lib entry=sky_lib.bash", "sky_lib members=2"},
     {"given/sky lib/it is/more.sh:1 sky_two()", "given/sky lib/sky lib.sh:1 sky_one()"}},
    {"functions with names that are not in the usual form, but that the shell takes",
     "zsh",
     {{"sea-tide/functions/sea-tide", "#autoload\nautoload -Uz sea-ebb\n"},
      {"sea-tide/functions/sea-ebb", "print ebb\n"}},
     {"sea-tide entry=functions/sea-tide", "sea-tide members=1"},
     {"given/sea-tide/functions/sea-ebb:1 sea-ebb()"}},
    {"functions with names that are not in the usual form, in files that are read when they are called",
     "fish",
     {{"sea-tide/functions/sea-tide.fish", "function sea-tide; end\n"}},
     {"sea-tide entry=functions/sea-tide.fish"}},
    {"functions that only what is run at start defines",
     "fish",
     {{"moon-glow/conf.d/moon-glow.fish",
       "# Glows.\nsource (status dirname)/../lib/on.fish\nfunction moon_off; end\n"},
      {"moon-glow/lib/on.fish", "function moon_on -a bright; end\n"},
      {"moon-glow/completions/moon_on.fish", "complete -c moon_on\n"}},
     {"moon_glow entry=functions/moon_glow.fish", "moon_glow members=2"},
     {"given/moon-glow/conf.d/moon-glow.fish:3 moon_off()", "given/moon-glow/lib/on.fish:1 moon_on(bright)"}},
    {"procedures in files that are sourced, and what they export of them",
     "tcl",
     {{"comet/pkgIndex.tcl", "package ifneeded comet 1.2 [list source [file join $dir comet.tcl]]\n"},
      {"comet/comet.tcl",
       "namespace eval ::comet {\n    variable here [file dirname [info script]]\n}\nproc ::comet::start {} {}\n"
       "source [file join [file dirname [info script]] parts tail.tcl]\nsource -encoding utf-8 $::comet::here/parts/head.tcl\n"
       "package provide comet 1.2\n"},
      {"comet/parts/tail.tcl",
       "namespace eval ::comet { namespace export tail_* head }\nproc ::comet::tail_long {a} {}\nproc ::comet::Inner {} {}\n"},
      {"comet/parts/head.tcl", "proc ::comet::head {size {bright 1}} {}\n"}},
     {"comet members=2"},
     {"given/comet/parts/head.tcl:1 head(size, bright=1)", "given/comet/parts/tail.tcl:2 tail_long(a)"}},
    {"a command that is called like its package, what another namespace exports, and code that is never run",
     "tcl",
     {{"dome/pkgIndex.tcl", "package ifneeded sky::dome 1.0 [list source [file join $dir dome.tcl]]\n"},
      {"dome/dome.tcl",
       "namespace eval ::sky { namespace export dome }\nproc ::sky::dome {angle} {}\nproc ::sky::inner {} {}\nif {0} {\n"
       "    proc ::sky::never {} {}\n}\npackage provide sky::dome 1.0\n"},
      {"far/pkgIndex.tcl", "package ifneeded far 1.0 [list source [file join $dir far.tcl]]\n"},
      {"far/far.tcl",
       "package require sky::dome\nif {[info commands ::sky::far] eq {}} {\n    proc ::sky::far {} {}\n}\n"
       "namespace eval ::sky { namespace export far }\npackage provide far 1.0\n"}},
     {"sky::dome members=1", "far members=1", "far needs sky::dome="},
     {"given/dome/dome.tcl:2 dome(angle)", "given/far/far.tcl:3 far()"}},
    {"procedures of files that a module includes",
     "guile",
     {{"wave/wave.scm",
       "(define-module (wave) #:export (crest trough))\n(include-from-path \"parts/crest.scm\")\n(define (trough) 0)\n"},
      {"wave/parts/crest.scm", "(define (crest height) height)\n(define (inner) 1)\n"}},
     {"wave members=2"},
     {"given/wave/parts/crest.scm:1 crest(height)", "given/wave/wave.scm:3 trough()"}},
    {"code in a folder of its own, and what belongs to no module",
     "lua",
     {{"moon/src/moon.lua", "local M = {}\nM.version = \"0.3\"\nlocal deep = require 'stars.deep'\nreturn M\n"},
      {"moon/tests/moon_test.lua", "local M = {}\nreturn M\n"},
      {"stars/init.lua", "local M = { deep = require('stars.deep') }\nreturn M\n"},
      {"stars/deep.lua", "return {}\n"}},
     {"moon entry=src/moon.lua", "moon version=0.3.0", "moon needs stars="}},
    {"a single file beside what only installs it",
     "python",
     {{"old_orbit/orbit.py",
       "'''\nComputes orbits\nof planets'''\nimport os\n__version__ = '1.2'\nclass Orbit:\n    pass\ndef period(a, b=1):\n    pass\n"},
      {"old_orbit/setup.py", "raise SystemExit(1)\n"}},
     {"orbit entry=orbit.py", "orbit version=1.2.0", "orbit summary=Computes orbits of planets"},
     {"given/old_orbit/orbit.py:6 Orbit()", "given/old_orbit/orbit.py:8 period(a, b=1)"}},
    {"members that are taken over from other files, and a list of them",
     "python",
     {{"sky/__init__.py",
       "from .places import (place,  # the first\n    places as all_places)\nfrom .rest import *\nfrom sky.more import far\n"
       "from json import loads\nfrom . import places\nLIMIT = 6\nOTHER = 7\ndef own(x): return x\nsecond = own\n"
       "__all__ = ['place', 'all_places', 'near', 'far', 'loads', 'LIMIT', 'own', 'second'] + []\n__all__ += ('deep',)\n"
       "__all__ += ['LOW', 'HIGH', '__made__', 'once', 'again']\nLOW, HIGH = divmod(7, 2)\nclass __made__: pass\n"
       "once = again = own\n"
       "__all__.append('STEP')\n"},
      {"sky/places.py", "def place(a): pass\ndef places(*names): pass\n"},
      {"sky/rest.py", "from .more import near, hidden\nSTEP = 2\nfrom .deeper.down import deep\n"},
      {"sky/more.py", "def near(x): pass\ndef far(y=2): pass\ndef hidden(): pass\nfrom .rest import *\n"},
      {"sky/deeper/__init__.py", ""},
      {"sky/deeper/down.py", "async def deep(z): pass\nfrom ..more import *\n"}},
     {"sky members=15"},
     {"given/sky/__init__.py:14 HIGH()", "given/sky/__init__.py:14 LOW()", "given/sky/__init__.py:15 __made__()",
      "given/sky/__init__.py:5 loads()", "given/sky/__init__.py:7 LIMIT()", "given/sky/__init__.py:9 again(x)",
      "given/sky/__init__.py:9 once(x)", "given/sky/__init__.py:9 own(x)", "given/sky/__init__.py:9 second(x)",
      "given/sky/deeper/down.py:1 deep(z)", "given/sky/more.py:1 near(x)", "given/sky/more.py:2 far(y=2)",
      "given/sky/places.py:1 place(a)", "given/sky/places.py:2 all_places(names)", "given/sky/rest.py:2 STEP()"}},
    {"members that are taken over without a list: the module's own, and the later one of two",
     "python",
     {{"sky/__init__.py",
       "from os.path import join\nfrom .a import *\nfrom .b import *\nfrom .a import _inner as inner, COUNT\ntry:\n"
       "    from .fast import quick\nexcept ImportError:\n    from .b import quick\n"},
      {"sky/a.py",
       "__all__ = 'shared only_a Alias again'.split()\ndef shared(a): pass\ndef only_a(): pass\ndef _inner(): pass\n"
       "def not_all(): pass\nCOUNT = 1\nclass Real: pass\nAlias = Real\nagain = only_a\n"},
      {"sky/b.py",
       "from .a import shared as first\ndef shared(b, *, c): pass\ndef quick(): pass\ndef _no(): pass\n"}},
     {"sky members=7"},
     {"given/sky/a.py:2 first(a)", "given/sky/a.py:3 again()", "given/sky/a.py:3 only_a()",
      "given/sky/a.py:4 inner()", "given/sky/a.py:7 Alias()", "given/sky/b.py:2 shared(b, c)",
      "given/sky/b.py:3 quick()"}},
    {"other names of functions, one of them from another file, and what makes functions and classes by a call",
     "python",
     {{"sky/__init__.py",
       "import os, wave.crest as crest\nfrom collections import namedtuple\nfrom enum import Enum\n"
       "from .a import far, _deep, COUNT\ndef place(a): pass\nput = place\nput_again = put\nremote = far\ndeep = _deep\n"
       "_hidden = place\nLIMIT = 6\nMOST = LIMIT\nmany = COUNT\nenough = os\nfar_away = lambda x, *y, z=1: 0\n"
       "Star = namedtuple('Star', 'name')\nKind = Enum('Kind', 'RED')\ndef near(): pass\nnear = place\n"},
      {"sky/a.py", "def _far(b): pass\nfar = _far\ndef _deep(c): pass\nCOUNT = 1\n"},
      {"wave/__init__.py", "'''Waves that run'''\nimport os\ndef _own(): pass\nown = _own\nother = own.__name__\n"},
      {"wave/crest.py", ""}},
     {"sky needs wave=", "wave summary=Waves that run"},
     {"given/sky/__init__.py:15 far_away(x, y, z=1)", "given/sky/__init__.py:16 Star()",
      "given/sky/__init__.py:17 Kind()", "given/sky/__init__.py:5 near(a)", "given/sky/__init__.py:5 place(a)",
      "given/sky/__init__.py:5 put(a)", "given/sky/__init__.py:5 put_again(a)", "given/sky/a.py:1 far(b)",
      "given/sky/a.py:1 remote(b)", "given/sky/a.py:3 deep(c)", "given/wave/__init__.py:3 own()"}},
    {"names that are taken away again, and a type over several lines",
     "python",
     {{"sky/__init__.py",
       "from .a import gone, kept\nimport typing as t\ndef own(): pass\nhelp, more = 1, 2\ndef other(): pass\nstays = other\ndef place(\n    bright: t.Optional[\n"
       "        t.Union[int, t.List[str],]\n    ] = None, *, epoch=1, **more,\n):\n    pass\ndel gone, own, other\n"},
      {"sky/a.py", "def gone(): pass\ndef kept(): pass\n"}},
     {"sky members=3"},
     {"given/sky/__init__.py:5 stays()", "given/sky/__init__.py:7 place(bright=None, epoch=1, more)",
      "given/sky/a.py:2 kept()"}},
    {"several modules in one line, and procedures taken from two of them",
     "guile",
     {{"sky/sky.scm",
       "(define-module (sky)\n  #:export (up))\n(use-modules (ice-9 match) (sun)\n  ((moon) #:select ((rise . up-moon) set)) (star near))\n"
       "(define (up x) x)\n"},
      {"sun/sun.scm", "(define-module (sun) #:export (heat))\n(define (heat) 1)\n"},
      {"moon/moon.scm", "(define-module (moon) #:export (rise set))\n(define (rise) 1)\n(define (set) 0)\n"},
      {"star/star.scm", "(define-module (star))\n"},
      {"star/star/near.scm", "(define-module (star near))\n"}},
     {"sky needs sun=", "sky needs moon=", "sky needs star="}},
    {"what is exported told by sets of letters",
     "tcl",
     {{"star/star.tcl",
       "namespace eval ::star {\n    namespace export {[a-z]*} \\[A-C\\]ig\n}\nproc ::star::place {a} {}\n"
       "proc ::star::Hidden {} {}\nproc ::star::Big {} {}\nproc ::star::_own {} {}\npackage provide star 1.0\n"},
      {"star/pkgIndex.tcl", "package ifneeded star 1.0 [list source [file join $dir star.tcl]]\n"}},
     {"star version=1.0"},
     {"given/star/star.tcl:4 place(a)", "given/star/star.tcl:6 Big()"}},
    {"what is defined in public, besides a list",
     "guile",
     {{"sky/sky.scm",
       "(define-module (sky) #:use-module (ice-9 optargs) #:use-module (ice-9 curried-definitions) #:export (c))\n"
       "(define (helper a) a)\n(define-public (place b) b)\n(define c 1)\n(define*-public (e y #:optional x) 2)\n"
       "(define-public ((far a) b) a)\n(define* (h z) 1)\n(define-public l (lambda (q) 1))\n"}},
     {"sky members=5"},
     {"given/sky/sky.scm:3 place(b)", "given/sky/sky.scm:4 c()", "given/sky/sky.scm:5 e(y, x)",
      "given/sky/sky.scm:6 far(a)", "given/sky/sky.scm:8 l(q)"}},
    {"nothing in public",
     "guile",
     {{"sky/sky.scm", "(define-module (sky))\n(define (helper a) a)\n(define-syntax-rule (m x) x)\n"}},
     {"sky members=0"}},
    {"several constants at once",
     "perl",
     {{"Star/Map.pm",
       "package Star::Map;\nuse Fcntl; use constant {\n    FAINTEST => 6,   # the last, OR => it\n    NAMES => { north => 1, south => [2, 3] },\n"
       "    LIST => (4),\n    BRIGHTEST => -1,\n};\nsub draw { 1 }\nsub FOLDED () { 7 }\nsub ENDING { 1 }\n"
       "sub AUTOLOAD { 1 }\n1;\n"}},
     {"Star::Map entry=Star/Map.pm"},
     {"given/Star/Map.pm:10 ENDING()", "given/Star/Map.pm:3 FAINTEST()", "given/Star/Map.pm:4 NAMES()",
      "given/Star/Map.pm:5 LIST()", "given/Star/Map.pm:6 BRIGHTEST()", "given/Star/Map.pm:8 draw()",
      "given/Star/Map.pm:9 FOLDED()"}},
    {"members that are set under a condition in one line",
     "lua",
     {{"sky/init.lua",
       "local M = {}\nif not M.place then M.place = function(a) return a end end\nif M.place ~= nil then M.no = 1 end\n"
       "if true then M.limit = 6 end\nif M.limit then print(M.limit == 1) end\n"
       "function M.far() end\nreturn M\n"}},
     {},
     {"given/sky/init.lua:2 place(a)", "given/sky/init.lua:3 no()", "given/sky/init.lua:4 limit()",
      "given/sky/init.lua:6 far()"}},
    {"names in parts, functions that nobody exports, and a version with a zero",
     "perl",
     {{"libstar-map-perl/Star/Map.pm",
       "package Star::Map;\nuse strict;\nuse Carp;\nour $VERSION = '1.08';\nuse constant FAINTEST => 6;\n\n=head1 NAME\n\n"
       "Star::Map - draws the sky\n\n=cut\n\nsub new { bless {}, shift }\nsub draw { 1 }\n*paint = \\&draw;\nsub _own { 1 }\n1;\n"},
      {"libstar-map-perl/Star/Map/Grid.pm", "package Star::Map::Grid;\nsub lines { 1 }\n1;\n"},
      {"libstar-map-perl/t/map.t.pm", "package Star::Map;\nsub wrong { 1 }\n1;\n"},
      {"user/lib/Sky/Show.pm",
       "package Sky::Show;\nuse Exporter 'import';\nuse Star::Map::Grid;\n"
       "our %EXPORT_TAGS = ( 'all' => [ qw(\n    open_show\n    close_show ) ] );\n"
       "our @EXPORT_OK = ( @{ $EXPORT_TAGS{'all'} } );\npush @EXPORT_OK, 'late_show', 'night_show';\nour @EXPORT = qw( );\n"
       "sub open_show { 1 }\nsub close_show { 1 }\nsub late_show { 1 }\nsub helper { 1 }\n*night_show = \\&late_show;\n1;\n"}},
     {"Star::Map entry=Star/Map.pm", "Star::Map version=1.8", "Star::Map summary=draws the sky",
      "Sky::Show needs Star::Map="},
     {"given/libstar-map-perl/Star/Map.pm:13 new()", "given/libstar-map-perl/Star/Map.pm:14 draw()",
      "given/libstar-map-perl/Star/Map.pm:5 FAINTEST()", "given/user/lib/Sky/Show.pm:10 open_show()",
      "given/user/lib/Sky/Show.pm:11 close_show()", "given/user/lib/Sky/Show.pm:12 late_show()",
      "given/user/lib/Sky/Show.pm:12 night_show()"}},
    {"a module with others below it, records, and one that uses what lies below",
     "guile",
     {{"guile-star/star.scm",
       ";;; (star) --- Names stars.\n;;; Copyright 2020 Varn Hill\n(define-module (star)\n  #:use-module (srfi srfi-9)\n"
       "  #:export ((%make-star . make-star) star? star-name set-star-name!))\n(define-record-type <star>\n  (%make-star name)\n  star?\n"
       "  (name star-name set-star-name!))\n"},
      {"guile-star/star/grid.scm", "(define-module (star grid)\n  #:export (lines))\n(define (lines) 1)\n"},
      {"sky/sky.scm",
       "(define-module (sky)\n  #:use-module (star grid)\n  #:re-export (lines)\n  #:export (twice twice/fast))\n(define (twice x) (* 2 x))\n(define (twice/fast x) x)\n"}},
     {"star entry=star.scm", "star summary=Names stars.", "sky needs star="},
     {"given/guile-star/star.scm:7 make-star()", "given/guile-star/star.scm:8 star?()",
      "given/guile-star/star.scm:9 set-star-name!()", "given/guile-star/star.scm:9 star-name()",
      "given/sky/sky.scm:3 lines()", "given/sky/sky.scm:5 twice(x)", "given/sky/sky.scm:6 twice/fast(x)"}},
    {"a list of packages tells names and versions, and packages that export in long lines or nothing",
     "tcl",
     {{"star_1/pkgIndex.tcl",
       "if {![package vsatisfies [package provide Tcl] 8.4]} {return}\npackage ifneeded star 1.2 \\\n"
       "    [list source [file join $dir old.tcl]]\npackage ifneeded star 1.10 [\n    list source [file join $dir star.tcl]]\n"
       "package ifneeded star::grid 0.1 [list source [file join $dir grid.tcl]]\n"},
      {"star_1/star.tcl",
       "# star.tcl --\n# Places stars.\nnamespace eval ::star {\n    namespace export \\\n        place \\\n"
       "        places\n}\nproc ::star::place {a} {}\nproc ::star::places {args} {}\nproc ::star::own {} {}\n"
       "package provide star 1.10\n"},
      {"star_1/old.tcl", "package provide star 1.2\n"},
      {"star_1/grid.tcl", "package provide star::grid 0.1\n"},
      {"Moon/pkgIndex.tcl", "package ifneeded Moon::phase 1 [list source [file join $dir phase.tcl]]\n"},
      {"Moon/phase.tcl",
       "package require star::grid\nnamespace eval ::phases {}\nproc ::phases::now {{when 0}} {}\n"
       "proc phase_of {day} {}\npackage provide Moon::phase 1\n"}},
     {"star version=1.10", "star entry=star.tcl", "star summary=Places stars.", "Moon::phase version=1.0",
      "Moon::phase needs star="},
     {"given/Moon/phase.tcl:3 now(when=0)", "given/Moon/phase.tcl:4 phase_of(day)",
      "given/star_1/star.tcl:8 place(a)", "given/star_1/star.tcl:9 places(args)"}},
    {"headers among the sources, one of them with the version, and a form without code that does not count",
     "cmake",
     {{"wave/CMakeLists.txt",
       "cmake_minimum_required(VERSION 3.16)\nproject(wave C)\nadd_library(wave-headers INTERFACE)\n"
       "add_library(wave src/wave.c)\n"},
      {"wave/src/wave.h",
       "#ifndef WAVE_H\n#define WAVE_H\n#define WAVE_VERSION_MAJOR 2\n#define WAVE_VERSION_MINOR 5\n"
       "#define WAVE_VERSION_PATCH 1\n#include \"wave_kind.h\"\nint wave_height(int at);\n#endif\n"},
      {"wave/src/wave_kind.h", "enum wave_kind { WAVE_SINE };\n"},
      {"wave/src/deep.h", "int hidden(void);\n"},
      {"wave/src/wave.c", "#include \"wave.h\"\n#include \"deep.h\"\nint wave_height(int at) { return at; }\n"},
      {"wave/contrib/other.h", "int other(void);\n"}},
     {"wave version=2.5.1", "wave files=listed one by one", "wave members=5"}},
};

std::string called(const json& member) {
    std::string out = member["file"].get<std::string>() + ":" + std::to_string(member["line"].get<int>()) + " " +
                      member["name"].get<std::string>() + "(";
    for (const auto& parameter : member["parameters"]) {
        if (!out.ends_with('(')) out += ", ";
        out += parameter["name"].get<std::string>();
        if (const std::string preset = parameter.value("default", ""); !preset.empty()) out += "=" + preset;
    }
    return out + ")";
}

}  // namespace

TEST_CASE("modules as other people lay them out are adopted as they lie, check, and load as predicted") {
    for (const Layout& row : layouts) {
        CAPTURE(row.about);
        const Driver driver;
        REQUIRE(driver.envar({"begin", "w"}).status == 0);
        for (const auto& [file, content] : row.files) driver.write("w/given/" + file, content);
        const Run adopt = driver.envar({"adopt", "given", "--host", row.host}, "w");
        REQUIRE_MESSAGE(adopt.status == 0, adopt.output, adopt.errors);
        std::vector<std::string> known;
        const json adopted = json::parse(driver.read("w/envar-results/adopt.json"));
        for (const auto& module : adopted["modules"])
            for (const auto& one : module["known"]) {
                const std::string what = module["module"].get<std::string>() + " " + one["what"].get<std::string>();
                known.push_back(what + "=" + one["value"].get<std::string>());
                known.push_back(what + " (" + one["sureness"].get<std::string>() + ")");
            }
        for (const auto& expect : row.expect)
            CHECK_MESSAGE(std::find(known.begin(), known.end(), expect) != known.end(), expect, adopt.output);
        const Run check = driver.envar({"check"}, "w");
        CHECK_MESSAGE(check.status == 0, check.output);
        const Run trial = driver.envar({"trial"}, "w");
        CHECK_MESSAGE(trial.status == 0, trial.output, trial.errors);
        if (row.members.empty()) continue;
        CHECK(driver.envar({"members", "--format", "json"}, "w").status == 0);
        std::vector<std::string> members;
        const json found = json::parse(driver.read("w/envar-results/members.json"));
        for (const auto& module : found["modules"])
            for (const auto& member : module["members"]) members.push_back(called(member));
        std::sort(members.begin(), members.end());
        CHECK(json(members).dump(1) == json(row.members).dump(1));
        // Manifests that list all of them are as good.
        const Run sync = driver.envar({"members", "--sync"}, "w");
        CHECK_MESSAGE(sync.status == 0, sync.output, sync.errors);
        const std::string& last = row.members.back();
        const bool unlisted = last.find('/', last.find(':')) != std::string::npos;
        CHECK((sync.output.find("as no manifest can hold it") != std::string::npos) == unlisted);
        CHECK_MESSAGE(driver.envar({"check"}, "w").status == 0, sync.output);
        CHECK(driver.envar({"members", "--sync"}, "w").output.find("changed:") == std::string::npos);
    }
}

TEST_CASE("several modules in one folder each get a manifest of their own where one is given for them") {
    struct Flat {
        std::string host, folder;
        Files files;
        std::string names, part;
    };
    for (const Flat& row : std::vector<Flat>{
             {"lua",
              "given",
              {{"stars.lua", "return { place = function(a)\n  return require 'moon'\nend }\n"},
               {"moon.lua", "local M = {}\nM.stars = require 'stars'\nreturn M\n"}},
              "moon, stars",
              ""},
             {"python",
              "given",
              {{"sun.py", "import moon\nfrom sky.deep import x\ndef rise(): pass\n"},
               {"moon.py", "def rise():\n    import sun\n    return sun\n"},
               {"sky/__init__.py", ""},
               {"sky/deep.py", "x = 1\n"}},
              "moon, sun",
              "sky"},
             {"fish",
              "given",
              {{"stars.fish", "function stars; end\n"},
               {"moon.fish", "function moon; end\nfunction rise; end\n"},
               {"config.fish", "set -g x 1\n"},
               {"functions/other.fish", "function other; end\n"}},
              "moon, stars",
              ""},
             {"perl",
              "given",
              {{"Star/Near.pm", "package Star::Near;\nsub a {\n    require Star::Far;\n    1 }\n1;\n"},
               {"Star/Far.pm", "package Star::Far;\nuse Star::Near;\nsub b { 1 }\n1;\n"}},
              "Star::Far, Star::Near",
              ""},
         }) {
        CAPTURE(row.host);
        for (const bool copy : {false, true}) {
            const Driver driver;
            REQUIRE(driver.envar({"begin", "w"}).status == 0);
            for (const auto& [file, content] : row.files) driver.write("w/" + row.folder + "/" + file, content);
            const auto before = driver.tree("w/" + row.folder);
            const Run alone = driver.envar({"adopt", row.folder, "--host", row.host, "--dry-run"}, "w");
            const std::string told = "2 modules, each a file by itself: " + row.names;
            if (row.part.empty()) CHECK_MESSAGE(alone.errors.find(told) != std::string::npos, alone.errors);
            CHECK((alone.status == 0) == !row.part.empty());
            std::vector<std::string> words = {"adopt", row.folder, "--host", row.host, "--into", "known"};
            if (copy) words.emplace_back("--copy");
            const Run adopt = driver.envar(words, "w");
            REQUIRE_MESSAGE(adopt.status == 0, adopt.output, adopt.errors);
            CHECK(adopt.output.find("by itself") == std::string::npos);
            const bool circle = row.files[0].second.find("require") != std::string::npos || row.host == "python";
            CHECK((adopt.output.find(" at once, and ") != std::string::npos) == circle);
            CHECK(driver.tree("w/" + row.folder) == before);
            const Run check = driver.envar({"check"}, "w");
            CHECK_MESSAGE(check.status == 0, check.output);
            const Run trial = driver.envar({"trial"}, "w");
            CHECK_MESSAGE(trial.status == 0, trial.output, trial.errors);
            CHECK(trial.output.find(row.part) != std::string::npos);
            // Functions in a folder beside the files belong to none of them.
            if (row.host == "fish") CHECK(driver.envar({"members"}, "w").output.find("other") == std::string::npos);
        }
    }
}

TEST_CASE("modules in folders that are called the same each keep a manifest") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("given/one/5.1/stars.lua", "local M = {}\nfunction M.place() end\nreturn M\n");
    driver.write("given/two/5.1/moon.lua", "local M = {}\nfunction M.rise() end\nreturn M\n");
    const Run adopt = driver.envar({"adopt", "../given/one/5.1", "../given/two/5.1", "--into", "known"}, "w");
    REQUIRE_MESSAGE(adopt.status == 0, adopt.errors);
    for (const std::string module : {"stars", "moon"}) {
        const std::string manifest = driver.read("w/known/" + module + "/module.envar.toml");
        CHECK_MESSAGE(manifest.find("name = \"" + module + "\"") != std::string::npos, adopt.output);
    }
    CHECK(driver.envar({"check"}, "w").output == "2 modules checked, nothing found\n");
    std::filesystem::create_directories(driver / "given/5.4");
    std::filesystem::create_symlink("../two/5.1/moon.lua", driver / "given/5.4/moon.lua");
    const Run link = driver.envar({"adopt", "../given/5.4", "--into", "more"}, "w");
    CHECK_MESSAGE(link.errors.find("`moon.lua` is a link that leads out of the folder") != std::string::npos,
                  link.errors);
    CHECK(driver.envar({"trial"}, "w").status == 0);
}

TEST_CASE("code that no module could be made of is told, and what the host shows besides is told in one line") {
    const Driver driver;
    REQUIRE(driver.envar({"begin", "w"}).status == 0);
    driver.write("w/lua/parts/deep/one.lua", "return {}\n");
    driver.write("w/lua/parts/deep/two.lua", "return {}\n");
    driver.write("w/lua/made/made.lua",
                 "local M = {}\nfor c in ('abcdefghij'):gmatch('.') do M['m_' .. c] = c end\nreturn M\n");
    const Run adopt = driver.envar({"adopt", "lua"}, "w");
    REQUIRE_MESSAGE(adopt.status == 0, adopt.errors);
    CHECK_MESSAGE(adopt.output.find("lua/parts: 2 files of lua, and none tells what module it is: deep/one.lua, …") !=
                      std::string::npos,
                  adopt.output);
    const Run trial = driver.envar({"trial"}, "w");
    CHECK(trial.status == 1);
    CHECK_MESSAGE(
        trial.output.find("the host shows 10 members that were not expected: m_a, m_b, m_c, m_d, m_e, m_f, "
                          "m_g, m_h and 2 more; `envar members --from-host` takes them up") != std::string::npos,
        trial.output);
    CHECK(driver.envar({"members", "--from-host"}, "w").status == 0);
    CHECK(driver.envar({"trial"}, "w").status == 0);
}
