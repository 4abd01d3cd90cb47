namespace Chiton.Core.Programs.Language;

/// <summary>A kind of sentence, with what it says and one that stands for all of them.</summary>
/// <param name="Group">What it belongs to: head, trigger, condition, drives, motors, servos, lamps and sound, values, the rest.</param>
/// <param name="Form">Its form, with what can be said in capitals, choices between bars and what may be left out in brackets.</param>
/// <param name="Says">What it says, for people.</param>
/// <param name="Example">A whole line of it, as it is printed. A test reads each.</param>
public sealed record SentenceForm(string Group, string Form, string Says, string Example);

/// <summary>
/// Every kind of sentence there is: the tables of the language page are made of it, and examples beside an empty line. A test holds
/// that each example is read as it stands, that every word of the language occurs, and that the page says the same.
/// </summary>
public static class Forms
{
    /// <summary>All of them, in the order told.</summary>
    public static IReadOnlyList<SentenceForm> All { get; } =
    [
        new(
            "head",
            "var NAME = EXPRESSION",
            "a variable; `queue` is an empty queue to begin with, `no zone` a zone not yet seen",
            "var beds = 0"
        ),
        new("head", "const NAME = EXPRESSION", "a number with a name; it cannot be set", "const reach = 310 motor deg"),
        new(
            "head",
            "goal: CONDITION [within TIME | before TIME | for TIME | at the end]",
            "what a run is to reach: `stopped over PLACE`, `finished`, `LOAD on PLACE`, or any condition",
            "goal: finished within 40 s"
        ),
        new(
            "head",
            "never: CONDITION [for more than TIME | at most once for each THINGS | at the end]",
            "what must not happen: `moving after TIME`, `robot over the edge`, `MECHANISM past its [top|bottom] stop`, or any condition",
            "never: moving after 30 s"
        ),
        new(
            "world",
            "THING on|off|in|wholly on|touching PLACE",
            "the world, for goals, nevers and scenes: where something lies; `within 20 mm of PLACE`, "
                + "`[VEHICLE] stopped over PLACE`, `THING through MECHANISM`",
            "goal: Drive wholly on bay before 20 s"
        ),
        new(
            "world",
            "every|no|at least N|at most N|exactly N THINGS on|off|in PLACE",
            "of several alike; `at most once for each THINGS` says how often something may come true",
            "goal: at least 12 crumbs off the deck at the end"
        ),
        new(
            "world",
            "THING before SENSOR nearer than LENGTH",
            "what stands before a sensor",
            "never: crate before Range nearer than 20 mm"
        ),
        new(
            "world",
            "MECHANISM at POSITION|past its [WHICH] stop|turned AMOUNT",
            "how a mechanism stands",
            "goal: Mast turned 2 wheel turns for 2 s"
        ),
        new(
            "world",
            "LAMP is on|off|COLOUR, SOUNDER sounds, DISPLAY shows \"…\"",
            "what people see and hear",
            "never: Lamp is on for more than 8 s"
        ),
        new("world", "level of TANK above|below LENGTH", "water", "never: level of basin above 200 mm"),
        new(
            "world",
            "a crash, robot|DRIVE over the edge",
            "bodies that meet; a wheel that has left the deck",
            "never: a crash at most once for each crate"
        ),
        new(
            "trigger",
            "when CONDITION",
            "a level: judged on entry and at each reading; with `stay` it fires once each time it comes true",
            "when Tag eye is bed tag and Range < 65 mm: go Over"
        ),
        new(
            "trigger",
            "when SENSOR becomes|leaves ZONE",
            "an edge, counted only since the state was entered, from the zone the sensor is in then",
            "when Tag eye becomes bed tag for 2 readings: go Over"
        ),
        new(
            "trigger",
            "when BUTTON is pressed|released|tapped|tapped twice|held for TIME",
            "an edge; a tap lasts at most 0.5 s, two taps at most 0.6 s",
            "when Knob is held for 2 s: go Over"
        ),
        new(
            "trigger",
            "when ACTUATOR is done, when all done",
            "it has reached its end by itself, after the last command of a chain; "
                + "`all done`: everything this state began has ended or given up",
            "when Mast is done: go Over"
        ),
        new("trigger", "when ACTUATOR gives up", "a limit `up to TIME` ran out before the end", "when Mast gives up: go Over"),
        new(
            "trigger",
            "when ACTUATOR stalls",
            "it pushes against something; it goes on pushing until it is commanded anew",
            "when Mast stalls: go Over"
        ),
        new(
            "trigger",
            "when told \"TEXT\" [from PROGRAM] [into V, V]",
            "a message came, with its values",
            "when told \"ask\" from Keeper into beds: go Over"
        ),
        new(
            "trigger",
            "when not told [\"TEXT\"] for TIME",
            "that text, or anything, did not come for so long",
            "when not told \"ask\" for 500 ms: go Over"
        ),
        new("trigger", "after TIME", "once, counted from entry", "after 2 s: go Over"),
        new("trigger", "every TIME", "again and again, counted from entry", "every 100 ms: set beds to beds + 1; stay"),
        new("trigger", "always", "as soon as the state is entered", "always: go Over"),
        new(
            "condition",
            "SENSOR is [not] ZONE",
            "what the sensor sees; a button is `up` or `down`",
            "when Tag eye is not bed tag: go Over"
        ),
        new(
            "condition",
            "SENSOR hears nothing",
            "nothing is there to answer; then no comparison with its reading holds",
            "when Range hears nothing for 1 s: go Over"
        ),
        new(
            "condition",
            "SENSOR cannot tell",
            "what it was taught lies too close together to be told apart",
            "when Tag eye cannot tell: go Over"
        ),
        new("condition", "EXPRESSION < EXPRESSION", "and `<= > >= = !=`, in like units", "when Range < 65 mm: go Over"),
        new("condition", "ACTUATOR is done|has given up", "how its latest command ended", "when Mast has given up: go Over"),
        new("condition", "REGION is in STATE", "where another region is", "when Main is in Rolling: go Over"),
        new("condition", "Q holds X", "a value waits in a queue", "when line holds 2: go Over"),
        new(
            "drives",
            "drive straight|back [WAY | for TIME] at SPEED",
            "a way is a length, `wheel turns`, `wheel deg` or `motor deg`",
            "on entry: drive straight 200 mm at 150 mm/s"
        ),
        new(
            "drives",
            "turn robot left|right [ANGLE | for TIME] [spinning|pivoting] at SPEED",
            "the speed in %, mm/s of the wheels or `robot deg/s`; without an amount it goes on",
            "on entry: turn robot left 90 robot deg spinning at 45 robot deg/s"
        ),
        new("drives", "steer LEFT and RIGHT [for TIME | WAY]", "each wheel at its own speed", "while here: steer 30 % and 40 %"),
        new(
            "drives",
            "steer by STICK and STICK[, dead band ANGLE]",
            "the first ahead and back, the second to the sides, a quarter turn being all of it",
            "while here: steer by Mast and Dial, dead band 15 deg"
        ),
        new(
            "drives",
            "follow EYE at SPEED gain K [to the left|right edge of ZONE]",
            "along an edge, the more turned the farther the reading lies off",
            "while here: follow Tag eye at 30 % gain 0.4 to the left edge of bed tag"
        ),
        new(
            "motors",
            "run M [DIRECTION] [AMOUNT | for TIME] at SPEED [up to TIME]",
            "`up to` is a limit: once it runs out the motor gives up and is not done; a plain motor takes power in % only",
            "on entry: run Mast up 90 motor deg at 30 % up to 4 s"
        ),
        new(
            "motors",
            "send M to POSITION [at SPEED] [by the shortest way|clockwise|counter-clockwise]",
            "to a position found by hand",
            "on entry: send Mast to low shelf at 40 %"
        ),
        new("motors", "send M home", "to the end that its switch tells", "on entry: send Mast home"),
        new("motors", "stop M [and brake|coast|hold]", "how, or as its mechanism says", "on entry: stop Mast and hold"),
        new("motors", "zero M", "its angle counts from here", "on entry: zero Mast"),
        new("motors", "step M COUNT at RATE", "a stepper", "on entry: step Dial 200 at 400 Hz"),
        new(
            "values",
            "teach EYE ZONE [for TIME]",
            "what it reads now is that zone from here on, in this run; the other zones follow",
            "on entry: teach Tag eye bed tag for 1 s"
        ),
        new("servos", "set S to ANGLE|POSITION [at SPEED]", "done after the time it is known to take", "on entry: set Flap to open"),
        new(
            "lamps and sound",
            "turn L on|off|COLOUR",
            "red, orange, yellow, green, cyan, blue, purple, pink or white",
            "on entry: turn Lamp red"
        ),
        new("lamps and sound", "turn lamp of EYE on|off", "the eye's own lamp", "on entry: turn lamp of Tag eye off"),
        new(
            "lamps and sound",
            "blink L TIME on TIME off [N times]",
            "without a count it goes on",
            "while here: blink Lamp 0.3 s on 0.7 s off"
        ),
        new("lamps and sound", "tone HZ for TIME", "one tone", "on entry: tone 440 Hz for 0.5 s"),
        new("lamps and sound", "tone HZ TIME on TIME off [N times]", "beeps", "on entry: tone 440 Hz 0.2 s on 0.3 s off 3 times"),
        new("lamps and sound", "play \"NAME\" [for TIME]", "a sound kept on the controller", "on entry: play \"horn\" for 2 s"),
        new("lamps and sound", "show TEXT|EXPRESSION [+ …]", "texts and values one after the other", "on entry: show \"charge \" + beds"),
        new("values", "set V to EXPRESSION", "a variable takes a value; yes or no of a condition too", "on entry: set beds to beds + 1"),
        new("values", "push V onto Q", "at the end of a queue", "on entry: push beds onto line"),
        new(
            "values",
            "take from Q into V",
            "from its beginning; from an empty queue nothing is taken",
            "on entry: take from line into beds"
        ),
        new("the rest", "tell PROGRAM \"TEXT\" [with V, V]", "a message", "on entry: tell Keeper \"ask\" with beds"),
        new("the rest", "do ROUTINE [(X, X)]", "it ends when its regions are final, or with this state", "on entry: do Dip"),
        new("the rest", "wait TIME", "for what follows in a chain", "on entry: wait 1 s, then turn Lamp on"),
        new(
            "the rest",
            "ACTION if CONDITION[, otherwise ACTION]",
            "asked once; in `while here` anew at each reading. Otherwise is done unless the condition is true",
            "while here: run Mast at 30 % if Range < 65 mm, otherwise run Mast at 60 %"
        ),
        new("the rest", "repeat N times: ACTIONS", "to the end of the line", "on entry: repeat 3 times: run Mast 90 motor deg at 30 %"),
        new(
            "the rest",
            "repeat until CONDITION: ACTIONS",
            "looked at before each round",
            "on entry: repeat until Tag eye is bed tag: run Mast 90 motor deg at 30 %"
        ),
        new(
            "the rest",
            "stop everything",
            "whatever was begun anywhere; only what stands beside it in its line goes on",
            "on entry: stop everything"
        ),
    ];

    /// <summary>The table of a group as the language page has it, in Markdown.</summary>
    /// <param name="groups">One group or more.</param>
    public static string Table(params string[] groups)
    {
        static string Cell(string text) => text.Replace("|", "\\|", StringComparison.Ordinal);
        return "| sentence | says |\n|---|---|\n"
            + string.Concat(All.Where(f => groups.Contains(f.Group)).Select(f => $"| `{Cell(f.Form)}` | {Cell(f.Says)} |\n"));
    }
}
