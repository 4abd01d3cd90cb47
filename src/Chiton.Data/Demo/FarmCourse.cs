using Chiton.Core.Classroom;
using Chiton.Core.Rigs;

namespace Chiton.Data.Demo;

/// <summary>The course that ships with the demo: eight lessons on the oyster farm, one a part of the work, and a ninth for which the teams
/// bring their own rig.</summary>
public static class FarmCourse
{
    /// <summary>Address of the course.</summary>
    public const string Address = "a-season-on-the-oyster-farm";

    private static readonly RubricRow Works = new("It works", ["it does not run yet", "it works now and then", "it works nearly always"]);

    private static readonly RubricRow Reasons = new(
        "Reasons are given",
        ["none", "what was done is said", "what was done is said, and why", "the numbers behind it are named"]
    );

    private static readonly RubricRow Care = new(
        "Readings and trials",
        ["none", "one or two", "enough, and none set aside without a word"]
    );

    // What lessons about one machine and one region offer: no more than a first program needs.
    private static readonly Offered First = new(
        ["zone", "press", "condition", "after"],
        ["run", "stop", "send", "servo", "lamp", "sound", "show", "set"],
        Regions: false,
        Routines: false
    );

    private static Lesson Made(
        string name,
        string rig,
        string task,
        int minutes,
        LessonDone done,
        IReadOnlyList<string> hints,
        IReadOnlyList<RubricRow> rubric,
        params string[] buildsOn
    ) => new(name, rig, "", task, minutes, done, Offered.All, StartKind.AsItIs, "", "", hints, [], rubric, buildsOn);

    /// <summary>The course.</summary>
    /// <param name="rig">Finds a rig of the demo by its address.</param>
    /// <exception cref="InvalidOperationException">When what a lesson leaves out does not stand in the demo's program.</exception>
    public static Course Make(Func<string, RigDesign> rig) =>
        new(
            "A season on the oyster farm",
            "Eight lessons, one a part of the work, on the machines of the farm; the ninth is about a machine of your own.",
            [
                Made(
                    "Every lead in its place",
                    "header-tank",
                    "The header tank has two probes, a pump, a servo and an alarm. Find out where each lead runs and why it runs there and "
                        + "nowhere else. Then say what would go wrong if the pump were fed by the board itself.",
                    40,
                    new(DoneKind.Answer, Question: "Why does the pump have a pack of its own, and what must still be joined?"),
                    [
                        "Go through the port map column by column: under each stands how much current runs there.",
                        "Take one lead off and run it to a port where it cannot work: what is said?",
                        "Two supplies only understand each other when their grounds are joined.",
                    ],
                    [Reasons]
                ),
                Made(
                    "What the eye can tell apart",
                    "seed-trolley",
                    "The trolley counts tags with one eye. Take readings over the sleepers and over a bed tag, and bring the threshold to "
                        + "at least workable. Does more light help, or more readings in a row?",
                    40,
                    new(DoneKind.Answer, Question: "What was the verdict before, what is it now, and what made the difference?"),
                    [
                        "Look at the dots, not at the mean: which of the two zones lies scattered?",
                        "A reading that stands all alone may be left out, if you can say why.",
                        "Asking for several readings in a row costs time. How long is the eye over a tag?",
                    ],
                    [Care, Reasons]
                ),
                Made(
                    "Eight hundred millimetres",
                    "deck-scrubber",
                    "Tell the scrubber to drive 800 mm, measure where it ends, and do it again. Find its wheel diameter and its track "
                        + "width from your own trials, until the next command ends within 10 mm of what you asked.",
                    40,
                    new(DoneKind.Answer, Question: "How far off was the guess, and how sure are you of the number now?"),
                    [
                        "Change nothing between two trials: only then do they tell how much it varies by itself.",
                        "Find the wheel first. A turn can only be worked out once it is known.",
                        "Drive a square both ways round: what differs?",
                    ],
                    [Care, Reasons],
                    "What the eye can tell apart"
                ),
                Made(
                    "Stop over the third bed",
                    "seed-trolley",
                    "The trolley rolls past five beds and is to stop over the third. Two sentences are missing: the one that stops "
                        + "counting, and the one that makes it ready for the next tag. Write them, and let it run.",
                    40,
                    new(DoneKind.Rate, 5, 10),
                    [
                        "Walk through it by hand: in which state is it while the eye is over a tag?",
                        "A tag is behind it once the eye sees the sleepers again.",
                        "Where does it learn that three beds are enough?",
                    ],
                    [Works, Reasons],
                    "What the eye can tell apart"
                ) with
                {
                    Offered = First,
                    Start = StartKind.Gaps,
                    Script = Without(
                        rig("seed-trolley"),
                        "    when beds = 3: go Stopping\n",
                        "    # The tag is behind it once the eye is back on the sleepers.\n    when Tag eye becomes sleepers: go Rolling\n"
                    ),
                    Answer = "In Over tag: when beds = 3: go Stopping, and when Tag eye becomes sleepers: go Rolling.",
                    Walks = ["To the third bed"],
                },
                Made(
                    "What is wrong before it runs",
                    "rack-hoist",
                    "Somebody changed one sentence of the hoist, and now it may hang where nobody can reach it. Find it without running "
                        + "it: read what Check says, walk there by hand, and mend it.",
                    40,
                    new(DoneKind.Answer, Question: "Which sentence was it, and what would have happened on the table?"),
                    [
                        "Begin with what stops the machine, not with what is only good to know.",
                        "Ask of every state: how does it get out if the thing it waits for never comes?",
                        "The tongue may meet something that blocks it.",
                    ],
                    [Reasons],
                    "Stop over the third bed"
                ) with
                {
                    Start = StartKind.Fault,
                    Script = Without(rig("rack-hoist"), "    when Tongue stalls: go Stuck\n"),
                    Answer = "In Docking the way out is missing for a tongue that is blocked: when Tongue stalls: go Stuck.",
                },
                Made(
                    "A boat that comes too fast",
                    "berthing-lights",
                    "Let boats come to the quay in the bench: slow ones, fast ones, one that turns away. Put a hand before the range "
                        + "sensor and pull its plug. Write each thing that went wrong into the scene as a sentence, so that it can be done "
                        + "again.",
                    40,
                    new(DoneKind.Answer, Question: "Which disturbance fooled the lights, and which sentence of the scene makes it again?"),
                    [
                        "Nothing heard is not the same as near.",
                        "Look at the strip at the moment when the lamp changed: what had the sensor read just before?",
                    ],
                    [Reasons],
                    "What is wrong before it runs"
                ),
                Made(
                    "Which number to measure next",
                    "shell-sorter",
                    "Count how often the sorter works. It says which of its numbers it doubts most. Measure that one, and count again: is "
                        + "the range narrower? Stop when it works nine times of ten.",
                    60,
                    new(DoneKind.Rate, 9, 10),
                    [
                        "A wide range says that you do not know this copy, not that it is bad.",
                        "Measure what is named first; the others matter less.",
                        "Failures that look alike have one cause: open them.",
                    ],
                    [Works, Care, Reasons],
                    "Eight hundred millimetres"
                ),
                Made(
                    "Ten runs on the table",
                    "seed-trolley",
                    "Say beforehand how many of ten runs will pass. Then run the trolley on the table ten times and log each run. Does the "
                        + "table agree with the bench? If not: what does the bench not know?",
                    60,
                    new(DoneKind.Table, 7, 10),
                    [
                        "Send the program first: what does the controller hold?",
                        "Change nothing within a series. Whatever you change begins a new one.",
                        "Measure where it came to rest, also when it passed.",
                    ],
                    [Works, Care, Reasons],
                    "Which number to measure next"
                ),
                Made(
                    "A machine of your own",
                    "",
                    "Bring a machine of your own: describe it, calibrate it, write what it does, have it checked, and prove it. Show it to "
                        + "another team, and let them say which number they would not believe.",
                    120,
                    new(DoneKind.Answer, Question: "What did the other team doubt, and what did you measure because of it?"),
                    ["Begin with the smallest thing that it does, and prove that first."],
                    [Works, Care, Reasons],
                    "Ten runs on the table"
                ),
            ]
        );

    // The rig's own program with lines left out.
    private static string Without(RigDesign rig, params string[] lines)
    {
        var script = rig.Program.Script;
        foreach (var line in lines)
        {
            if (!script.Contains(line, StringComparison.Ordinal))
                throw new InvalidOperationException($"“{line.Trim()}” does not stand in the program of {rig.Name}.");
            script = script.Replace(line, "");
        }
        return script;
    }
}
