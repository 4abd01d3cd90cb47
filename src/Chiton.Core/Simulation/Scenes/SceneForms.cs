namespace Chiton.Core.Simulation.Scenes;

/// <summary>The sentences of the scene language. A new one is a line of this table and what it builds.</summary>
public static class SceneForms
{
    private const string Options =
        "~[, rolls][, fixed][, low][, {h:len} high][, forked from {fork:len} up][, friction {mu:num}][, crushed above {crush:force}]"
        + "[, slips below {slip:force}][, knocked off by a touch][, on {carrier:mech} at {seat:pt}]";

    private const string There = "<at {at:pt}|lies at {place:place}|on {carrier:mech} at {seat:pt}|, on {carrier:mech} at {seat:pt}>";

    /// <summary>All, in the order of the page.</summary>
    public static IReadOnlyList<SceneForm> All { get; } =
    [
        new("scene", "head", "scene {name:name}", "its name; the first line", "scene As in the shed"),
        new("ends", "head", "ends after {t:dur!}", "how long a run lasts at most: 60 s unless said, at most 600 s", "ends after 90 s"),
        new("step", "head", "step {t:dur!}", "the step of the clock, 0.5 to 2 ms", "step 1 ms"),
        new("counts", "head", "counts", "the header and Prove count it; the first scene counts unless another says so", "counts"),
        new(
            "floor",
            "ground",
            "floor {w:len} by {d:len} [of {of:surf}][, walls round it]",
            "where it drives; without walls it goes on",
            "floor 2 m by 1.5 m of sand, walls round it"
        ),
        new(
            "deck",
            "ground",
            "deck {w:len} by {d:len} [of {of:surf}][, {beyond:surf} beyond]",
            "a raised place: its edge is a drop",
            "deck 1200 by 800 mm of deck, drop beyond"
        ),
        new("wall", "ground", "wall {path:path}[, low]", "a wall; an echo passes above a low one", "wall from (0, 0) to (600, 0)"),
        new(
            "strip",
            "paint",
            "strip [{name:name}] [of {of:surf}] {w:len} wide {path:path}[, round {r:len}][, closed]",
            "a painted line along points, its corners round or not",
            "strip of line 20 mm wide from (100, 400) to (900, 400)"
        ),
        new(
            "patch",
            "paint",
            "patch {name:name} [of {of:surf}] {w:len} by {d:len} at {at:pt}[, turned {turned:ang}]",
            "a painted rectangle, which is a place as well",
            "patch bay of weed 200 by 150 mm at (900, 600)"
        ),
        new(
            "round patch",
            "paint",
            "round patch {name:name} [of {of:surf}] {w:len} across at {at:pt}",
            "a painted disc",
            "round patch buoy of red 120 mm across at (200, 200)"
        ),
        new(
            "place",
            "paint",
            "place {name:name} {w:len} by {d:len} at {at:pt}[, turned {turned:ang}]",
            "a place without paint",
            "place berth 80 by 60 mm at (1540, 385)"
        ),
        new(
            "round place",
            "paint",
            "round place {name:name} {w:len} across at {at:pt}",
            "a round place without paint",
            "round place net 200 mm across at (400, 300)"
        ),
        new(
            "shade",
            "paint",
            "shade {w:len} by {d:len} at {at:pt}: {eye:sensor} <falls|rises> by {x:pct}",
            "where an eye reads less, or more in the sun",
            "shade 200 by 150 mm at (500, 300): Line eye falls by 8 %"
        ),
        new(
            "surface reads",
            "paint",
            "surface {name:name} reads {x:read} on {eye:sensor}",
            "what an eye reads over a surface that is no zone of it",
            "surface weed reads 31 % give or take 2 % on Line eye"
        ),
        new(
            "surface is",
            "paint",
            "surface {name:name} is {zone:surf} on {eye:sensor}",
            "one paint that several eyes look at",
            "surface red is line on Line eye"
        ),
        new(
            "thing round",
            "things",
            "thing {name:name} round {w:len} [{m:mass}] [of {of:surf}] " + There + Options,
            "something that lies there: it is pushed, gripped, sensed",
            "thing bollard round 80 mm at (760, 520), fixed"
        ),
        new(
            "thing box",
            "things",
            "thing {name:name} {w:len} by {d:len} [{m:mass}] [of {of:surf}] " + There + "[, turned {turned:ang}]" + Options,
            "the same, with corners",
            "thing crate 60 by 40 mm 120 g at (500, 300)"
        ),
        new(
            "things round",
            "things",
            "{n:count} things {name:name} round {w:len} [{m:mass}] [of {of:surf}] at random on {place:place}[, {gap:len} apart]" + Options,
            "several alike, put down at random",
            "14 things crumb round 22 mm 3 g at random on the deck, 60 mm apart"
        ),
        new(
            "things box",
            "things",
            "{n:count} things {name:name} {w:len} by {d:len} [{m:mass}] [of {of:surf}] at random on {place:place}[, {gap:len} apart]"
                + Options,
            "the same with corners, turned as they fall",
            "6 things crate 60 by 40 mm 30 g at random on the floor, 100 mm apart"
        ),
        new(
            "start drive",
            "placing",
            "start {what:name} at {at:pt} facing {heading:ang} [give or take {sd:len!} and {asd:ang!}]",
            "where the rig is put down, and how well",
            "start Drive at (200, 200) facing 90 robot deg give or take 10 mm and 2 robot deg"
        ),
        new(
            "start axis",
            "placing",
            "start {what:mech} at {angle:mdeg}",
            "how a mechanism stands; its angle counts as 0 there",
            "start Mast at 300 motor deg"
        ),
        new(
            "start rail",
            "placing",
            "start {what:name} at {at:len} [of siding {siding:name}]",
            "where a rail vehicle is put down",
            "start Seed trolley at 80 mm give or take 6 mm"
        ),
        new("start position", "placing", "start {what:mech} at {pos:pos}", "how a mechanism stands", "start Valve at closed"),
        new(
            "rail",
            "rail",
            "rail {l:len} of {of:surf}, <closed|end stops>",
            "the line of a rail vehicle",
            "rail 6200 mm of sleepers, closed"
        ),
        new(
            "marker",
            "rail",
            "marker {name:name} of {of:surf} {l:len} at {at:len} [of siding {siding:name}]",
            "a tag on the line, from where it begins",
            "marker bed 1 of bed tag 60 mm at 1200 mm"
        ),
        new(
            "siding",
            "rail",
            "siding {name:name} leaves at {at:len} [backwards], {l:len} long, <end stop|rejoins at {back:len}>",
            "a line beside the line",
            "siding shed leaves at 2000 mm, 600 mm long, end stop"
        ),
        new(
            "points",
            "rail",
            "points {name:name} <set aside|set straight|sprung|by {mech:mech}>",
            "how the points of a siding stand",
            "points shed set aside"
        ),
        new(
            "notches",
            "marks",
            "notches of {of:surf} on {mech:mech} {l:len} long at {at:mdeg+}, before {eye:sensor}",
            "marks that a mechanism carries past an eye, by the angle of their middles",
            "notches of notch on Mast 9 mm long at 620 and 1310 motor deg, before Shelf eye"
        ),
        new(
            "notch",
            "marks",
            "notch of {of:surf} on {mech:mech} from {a:mdeg} to {b:mdeg}, before {eye:sensor}",
            "the same, from angle to angle",
            "notch of flag on Jib from -15 to 15 motor deg, before Top eye"
        ),
        new(
            "closes",
            "marks",
            "{switch:sensor} closes <below {x:mdeg}|above {x:mdeg}|between {x:mdeg} and {y:mdeg}> of {mech:mech}",
            "where a switch closes",
            "Foot switch closes below 4 motor deg of Mast"
        ),
        new(
            "load",
            "carried",
            "load {name:name} [{m:mass}] on {mech:mech}[, seat {seat:len} from {from:name}][, friction {mu:num}]",
            "what a mechanism carries",
            "load tray 80 g on Tongue, seat 20 mm from the mast"
        ),
        new(
            "place of",
            "carried",
            "place {name:name} is {mech:mech} from {a:mdeg} to {b:mdeg} [with {other:mech} beyond {c:mdeg}]",
            "a place that is where mechanisms stand: what they carry stays there when they have rested inside and then withdraw",
            "place shelf 2 is Mast from 1280 to 1400 motor deg with Tongue beyond 250 motor deg"
        ),
        new("belt", "belt", "belt {mech:mech} {l:len} [long]", "a belt; sensors stand along it by their mounts", "belt Belt 400 mm"),
        new(
            "feed",
            "belt",
            "a {name:name} {l:len} every {t:dur}[, {n:count} in {m:count}]",
            "what is put on the belt, one after the other; of several lines the shares say which comes",
            "a white shell 30 mm every 3.5 s give or take 0.4 s, 4 in 10"
        ),
        new(
            "sends",
            "belt",
            "{arm:mech} at {at:len} sends {pairs:pairs}",
            "where an arm over the belt sends what comes, by its position then",
            "Diverter arm at 240 mm sends left bin to left bin, right bin to right bin"
        ),
        new(
            "sticks",
            "belt",
            "sticks at {at:len} in {n:count} of {m:count} until the belt runs back {back:len}",
            "what sticks now and then",
            "sticks at 230 mm in 2 of 100 until the belt runs back 20 mm"
        ),
        new(
            "tank",
            "water",
            "tank {name:name} {v:vol} high {h:len}, starts at {x:pct}",
            "a tank: how much it holds, how high it is, how full",
            "tank basin 4 l high 220 mm, starts at 20 %"
        ),
        new("brings", "water", "{pump:device} brings {q:flow} at {p:pct}", "what a pump brings at a power", "Pump brings 0.2 l/s at 100 %"),
        new(
            "lets",
            "water",
            "{mech:mech} at {pos:pos} lets <out|in> {q:flow}",
            "what a flap or a valve lets through in one of its positions",
            "Drain flap at open lets out 0.4 l/s"
        ),
        new("leaks", "water", "leaks {q:flow}", "what is lost all the time", "leaks 0.01 l/s"),
        new("gives", "water", "{tank:name} gives {q:flow}~", "what is taken out of it", "basin gives 0.1 l/s for 5 s every 20 s"),
        new(
            "runs dry",
            "water",
            "{pump:device} runs dry~",
            "a pump that brings nothing",
            "Pump runs dry at 20 s until 5 s after Silence button is down"
        ),
        new("hand", "before a sensor", "hand {x:len} before {sensor:sensor}~", "a hand there", "hand 60 mm before Range at 3 s for 1.5 s"),
        new(
            "stands",
            "before a sensor",
            "{noun:name} {x:len} before {sensor:sensor}~",
            "anything else there",
            "cat 200 mm before Range at 3 s for 1.5 s"
        ),
        new(
            "comes",
            "before a sensor",
            "{noun:name} comes before {sensor:sensor} from {a:len} to {b:len} at {v:speed}~[, stays {stay:dur}][, leaves at {out:speed}]",
            "something comes nearer",
            "boat comes before Range from 900 mm to 20 mm at 60 mm/s at 2 s, stays 8 s, leaves at 100 mm/s"
        ),
        new(
            "reads",
            "before a sensor",
            "{sensor:sensor} reads {x:read}~",
            "what a sensor senses instead",
            "Soil probe reads 410 at 5 s for 4 s"
        ),
        new(
            "reads zone",
            "before a sensor",
            "{sensor:sensor} reads {zone:surf}~",
            "the same by its zone",
            "Soil probe reads dry at 5 s for 4 s"
        ),
        new(
            "shows",
            "before a sensor",
            "person shows {zone:surf} to {eye:sensor}~",
            "in place of what it sees",
            "person shows red card to Card eye at 4 s for 1 s"
        ),
        new("silent", "before a sensor", "{sensor:sensor} hears nothing~", "no echo comes back", "Range hears nothing at 4 s for 1 s"),
        new(
            "person",
            "a person",
            "person <taps|presses|holds|lets go of> {button:sensor}~",
            "a finger on a button",
            "person taps Start button at 1 s"
        ),
        new(
            "puts drive",
            "a person",
            "person puts {what:name} at {at:pt} facing {heading:ang} [give or take {sd:len!} and {asd:ang!}]~",
            "the rig is put somewhere else, as well as at the start unless said",
            "person puts Drive at (200, 200) facing 0 robot deg at 20 s"
        ),
        new(
            "puts",
            "a person",
            "person puts {what:name} <at {at:pt}|on {place:place}>~",
            "a thing is put somewhere",
            "person puts buoy on bay at 3 s"
        ),
        new("takes", "a person", "person takes {what:name}~", "a thing is taken away", "person takes buoy when buoy on bay"),
        new(
            "turns",
            "a person",
            "person turns {mech:mech} to {a:mdeg} in {t:dur}~[, holds {hold:dur}][, lets go]",
            "a hand turns a mechanism",
            "person turns Crank to 60 motor deg in 0.4 s at 2 s, holds 2 s, lets go"
        ),
        new(
            "steers",
            "a person",
            "person steers {ahead:device} and {turn:device} to {places:names}~",
            "two sticks: the first is forward, the second turns to the right",
            "person steers Ahead stick and Turn stick to bay, then berth"
        ),
        new("reacts", "a person", "reacts in {t:dur}", "how long people take", "reacts in 0.25 s give or take 0.06 s"),
        new(
            "asks",
            "asking and passing",
            "{noun:name} asks at {button:sensor}~[, again every {again:dur}][, passes {mech:mech} at {pos:pos} in {pass:dur}]",
            "somebody presses, waits, presses again, and goes through",
            "boat asks at Boat button at 5 s, again every 10 s, passes Sea gate at open in 6 s"
        ),
        new(
            "light",
            "the room",
            "light <rises|falls> by {x:pct} on {eye:sensor}~",
            "an eye reads more, or less",
            "light falls by 6 % on Left edge eye from 20 s"
        ),
        new(
            "lost readings",
            "the room",
            "readings of {sensor:sensor} are lost {n:count} of {m:count}~",
            "readings that never come",
            "readings of Range are lost 1 of 200"
        ),
        new(
            "lost messages",
            "the room",
            "messages are lost {n:count} of {m:count}~",
            "messages that never come",
            "messages are lost 1 of 100"
        ),
        new("unplug", "disturbances", "unplug {device:device}~", "a lead is out", "unplug Left wheel at 6 s for 0.5 s"),
        new("block", "disturbances", "block {mech:mech}~", "it is held", "block Mast at 4 s for 2 s"),
        new("lift", "disturbances", "[person] <lift|lifts> the rig~", "its wheels turn in the air", "lift the rig at 5 s for 2 s"),
        new("battery", "disturbances", "battery at {v:volt}~", "what the pack gives", "battery at 6.2 V"),
        new(
            "guest",
            "guests",
            "guest {name:name} is {rig:name} copy {n:count}[, starts at {at:pt} facing {heading:ang}]",
            "another rig with its programs, in the same place",
            "guest Other is Deck scrubber copy 2, starts at (900, 400) facing 270 robot deg"
        ),
        new("goal", "rules", "goal: {rule:rule}", "what a run is to reach", "goal: at least 12 crumbs off the deck within 80 s"),
        new("never", "rules", "never: {rule:rule}", "what must not happen", "never: Drive over the edge"),
        new(
            "score each",
            "rules",
            "score {x:num!} for each {what:name} <on|off|in> {place:place}",
            "points for things",
            "score 10 for each crumb off the deck"
        ),
        new("score left", "rules", "score {x:num!} for each second left", "points for time", "score 1 for each second left"),
        new("score when", "rules", "score {x:num!} when {cond:cond}", "points for what happened", "score -20 when Drive over the edge"),
    ];

    /// <summary>A table of the page: sentences of these groups, what they say, and an example.</summary>
    public static string Table(params string[] groups) =>
        "| sentence | says | as in |\n|---|---|---|\n"
        + string.Concat(
            All.Where(f => groups.Contains(f.Group))
                .Select(f => $"| `{Cell(SceneForm.Readable(Short(f)))}` | {f.About} | `{Cell(f.Example)}` |\n")
        );

    private static string Short(SceneForm form) => form.Pattern.Replace(Options, "[, …]", StringComparison.Ordinal);

    private static string Cell(string text) => text.Replace("|", "\\|", StringComparison.Ordinal);

    private static readonly Dictionary<string, SceneForm> ByKey = All.ToDictionary(f => f.Key);

    /// <summary>The sentence of a key; null for none.</summary>
    public static SceneForm? Of(string key) => ByKey.GetValueOrDefault(key);

    /// <summary>True for a line that says when it happens.</summary>
    internal static bool Timed(SceneForm form) => form.Pattern.Contains('~') && form.Group is not "things";
}
