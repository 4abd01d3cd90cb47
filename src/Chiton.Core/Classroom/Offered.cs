using Chiton.Core.Programs.Language;
using Chiton.Core.Programs.Patterns;
using Chiton.Core.Rigs;

namespace Chiton.Core.Classroom;

/// <summary>A kind of sentence that a lesson offers, or does not.</summary>
/// <param name="Key">What it is called in a lesson.</param>
/// <param name="Words">What it is, in words that end “… are not part of this lesson”.</param>
/// <param name="Example">A sentence of it.</param>
public sealed record SentenceKind(string Key, string Words, string Example);

/// <summary>The kinds of sentences that lessons choose from. What people choose apart stands apart: a zone, a touch and a comparison are
/// three kinds of trigger, tones and beeps are one kind of action.</summary>
public static class SentenceKinds
{
    /// <summary>Kinds of triggers.</summary>
    public static IReadOnlyList<SentenceKind> Triggers { get; } =
    [
        new("zone", "Zones of sensors", "when Tag eye becomes bed tag"),
        new("press", "Touches and buttons", "when Start button is pressed"),
        new("condition", "Comparisons", "when beds = 3"),
        new("after", "Times", "after 2 s"),
        new("every", "Things that come again and again", "every 100 ms"),
        new("always", "Sentences that hold at once", "always"),
        new("stall", "Stalls", "when Jaws stalls"),
        new("giveUp", "Time limits of moves", "when Mast gives up"),
        new("told", "Messages that come in", "told \"ask\" from Landing"),
        new("silence", "Silence", "not told for 500 ms"),
    ];

    /// <summary>Kinds of actions.</summary>
    public static IReadOnlyList<SentenceKind> Actions { get; } =
    [
        new("run", "Motors that run", "run Trolley at 40 %"),
        new("stop", "Stops", "stop Trolley and brake"),
        new("send", "Positions", "send Jaws to open"),
        new("drive", "Drives and turns", "drive straight 400 mm at 30 %"),
        new("steer", "Steering", "steer 40 % and 30 %"),
        new("follow", "Following a line", "follow Line eye at 30 % gain 0.4"),
        new("servo", "Servos and steppers", "set Hopper to 90 deg"),
        new("lamp", "Lamps", "turn Lamp on"),
        new("sound", "Sounds", "tone 520 Hz for 0.4 s"),
        new("show", "What is shown", "show \"ready\""),
        new("set", "Setting of variables", "set beds to beds + 1"),
        new("wait", "Waiting in a chain", "wait 1 s"),
        new("if", "Actions under a condition", "turn Lamp on if beds > 2"),
        new("repeat", "Repeats", "repeat 3 times: turn Lamp on, then wait 1 s"),
        new("teach", "Calibrating at the start", "teach Line eye dark for 1 s"),
        new("tell", "Messages that go out", "tell Office \"ask\""),
        new("queue", "Queues", "push 3 onto Orders"),
    ];

    /// <summary>What kind a trigger is; null for a line that could not be read.</summary>
    public static string Of(TriggerNode trigger) =>
        trigger switch
        {
            ZoneTriggerNode => "zone",
            PressTriggerNode => "press",
            ConditionTriggerNode => "condition",
            AfterTriggerNode => "after",
            EveryTriggerNode => "every",
            AlwaysTriggerNode => "always",
            StallTriggerNode => "stall",
            GiveUpTriggerNode => "giveUp",
            ToldTriggerNode => "told",
            SilenceTriggerNode => "silence",
            _ => throw new ArgumentOutOfRangeException(nameof(trigger), trigger.GetType().Name, "No kind of trigger is known for this."),
        };

    /// <summary>What kind an action is; null for what only joins others: chains, groups, and routines, which are offered by
    /// themselves.</summary>
    public static string? Of(ActionNode action) =>
        action switch
        {
            RunNode or ZeroNode => "run",
            StopNode or StopAllNode => "stop",
            SendNode => "send",
            DriveNode or TurnRobotNode => "drive",
            SteerNode or SteerByNode => "steer",
            FollowNode => "follow",
            SetServoNode or StepNode => "servo",
            LampNode or EyeLampNode or BlinkNode => "lamp",
            ToneNode or BeepNode or PlayNode => "sound",
            ShowNode or ShowValueNode => "show",
            SetNode => "set",
            WaitNode => "wait",
            IfNode => "if",
            RepeatNode or RepeatUntilNode => "repeat",
            TeachNode => "teach",
            TellNode => "tell",
            PushNode or TakeNode => "queue",
            ThenNode or TogetherNode or GroupNode or DoNode => null,
            _ => throw new ArgumentOutOfRangeException(nameof(action), action.GetType().Name, "No kind of action is known for this."),
        };
}

/// <summary>A sentence that a lesson does not offer.</summary>
/// <param name="Line">Its line in the script, from 1.</param>
/// <param name="Kind">What kind it is; "regions" or "routines" for those.</param>
/// <param name="Say">So, kindly, and what is offered instead.</param>
public sealed record NotOffered(int Line, string Kind, string Say);

/// <summary>Which sentences a lesson offers. What is not offered is left out of what is proposed, and told kindly where it is typed; it is
/// no fault, and the machine runs with it.</summary>
/// <param name="Triggers">Kinds of triggers by their keys; null for all.</param>
/// <param name="Actions">Kinds of actions by their keys; null for all.</param>
/// <param name="Regions">True where several regions, and regions in states, are offered.</param>
/// <param name="Routines">True where routines are.</param>
public sealed record Offered(
    IReadOnlyList<string>? Triggers = null,
    IReadOnlyList<string>? Actions = null,
    bool Regions = true,
    bool Routines = true
)
{
    /// <summary>Everything.</summary>
    public static Offered All { get; } = new();

    private static string Instead(IReadOnlyList<SentenceKind> all, IReadOnlyList<string> offered) =>
        all.FirstOrDefault(k => offered.Contains(k.Key)) is { } first ? $" It has, for example: {first.Example}." : "";

    private string? Say(string kind, IReadOnlyList<SentenceKind> all, IReadOnlyList<string>? offered) =>
        offered is null || offered.Contains(kind)
            ? null
            : $"{all.First(k => k.Key == kind).Words} are not part of this lesson.{Instead(all, offered)}";

    /// <summary>What a lesson says to a trigger; null where it offers it.</summary>
    public string? To(TriggerNode trigger) => Say(SentenceKinds.Of(trigger), SentenceKinds.Triggers, Triggers);

    /// <summary>What a lesson says to an action by itself, not to what stands in it; null where it offers it.</summary>
    public string? To(ActionNode action) =>
        action is DoNode
            ? Routines
                ? null
                : "Routines are not part of this lesson."
            : SentenceKinds.Of(action) is { } kind
                ? Say(kind, SentenceKinds.Actions, Actions)
                : null;

    // Words that begin an action, by what kind it is.
    private static readonly Dictionary<string, string> Begins = new()
    {
        ["run"] = "run",
        ["zero"] = "run",
        ["stop"] = "stop",
        ["stop everything"] = "stop",
        ["send"] = "send",
        ["drive"] = "drive",
        ["turn robot"] = "drive",
        ["steer"] = "steer",
        ["follow"] = "follow",
        ["step"] = "servo",
        ["turn"] = "lamp",
        ["turn lamp of"] = "lamp",
        ["blink"] = "lamp",
        ["tone"] = "sound",
        ["beep"] = "sound",
        ["play"] = "sound",
        ["show"] = "show",
        ["wait"] = "wait",
        ["if"] = "if",
        ["repeat"] = "repeat",
        ["repeat until"] = "repeat",
        ["teach"] = "teach",
        ["tell"] = "tell",
        ["push"] = "queue",
        ["take from"] = "queue",
    };

    // Words that say what kind a trigger is.
    private static readonly Dictionary<string, string> Tells = new()
    {
        ["after"] = "after",
        ["every"] = "every",
        ["always"] = "always",
        ["becomes"] = "zone",
        ["leaves"] = "zone",
        ["is pressed"] = "press",
        ["is released"] = "press",
        ["is tapped"] = "press",
        ["is tapped twice"] = "press",
        ["is held for"] = "press",
        ["stalls"] = "stall",
        ["gives up"] = "giveUp",
        ["told"] = "told",
        ["not told"] = "silence",
        ["hears nothing"] = "condition",
        ["cannot tell"] = "condition",
        ["all done"] = "condition",
        ["is done"] = "condition",
        ["has given up"] = "condition",
        ["holds"] = "condition",
        ["is in"] = "condition",
    };

    private static readonly string[] Whens = ["zone", "press", "condition", "stall", "giveUp", "told", "silence"];

    /// <summary>Whether something is proposed as what could be typed next. What may still become something that is offered is.</summary>
    /// <param name="before">What stands on the line before it.</param>
    /// <param name="text">What would be typed.</param>
    /// <param name="kind">What it is, as the completion calls it: keyword, variable, servo and so on.</param>
    public bool Proposes(string before, string text, string kind)
    {
        var line = before.TrimStart();
        if (kind == "keyword" && text == "region")
            return Regions;
        if (kind == "keyword" && text is "routine" or "do")
            return Routines;
        if (line.Contains(':', StringComparison.Ordinal))
            return Actions is null
                || (
                    kind == "keyword"
                        ? text == "set"
                            ? Actions.Contains("set") || Actions.Contains("servo")
                            : Has(Actions, Begins, text)
                        : !line.EndsWith("set ", StringComparison.Ordinal) || Actions.Contains(kind == "servo" ? "servo" : "set")
                );
        if (Triggers is null)
            return true;
        if (line == "" && text == "when")
            return Triggers.Any(Whens.Contains);
        // A zone may be asked for as a level too, and what is compared may be anything.
        if (line == "when " && kind is "variable" or "function" or "value" or "region")
            return Triggers.Contains("condition");
        return kind is not ("keyword" or "condition") || Has(Triggers, Tells, text);
    }

    /// <summary>Whether a whole sentence is proposed, as an example or instead of one that cannot be read.</summary>
    /// <param name="sentence">The sentence.</param>
    /// <param name="words">The rig's names.</param>
    public bool Proposes(string sentence, Vocabulary words) =>
        In(ScriptParser.Parse($"program Piece\n\n  state Here, initial\n    {sentence}\n", words).Program).Count == 0;

    /// <summary>Whether a pattern is proposed: whether all its sentences are offered, filled as it would be to begin with. Its region is
    /// no hindrance, for its states can be put into another.</summary>
    /// <param name="pattern">The pattern, fitted.</param>
    /// <param name="rig">The rig.</param>
    public bool Proposes(FittedPattern pattern, RigDesign rig)
    {
        if (Triggers is null && Actions is null && Regions && Routines)
            return true;
        if (pattern.Holes.Any(h => h.Missing is not null))
            return false;
        try
        {
            var made = PatternFitting.Insert(
                pattern.Pattern,
                rig,
                $"program {(RigNames.IsName(rig.Name) ? rig.Name : "Piece")}\n",
                pattern.Holes.ToDictionary(h => h.Hole.Id, h => h.Value),
                new Dictionary<string, string>(),
                null
            );
            return In(ScriptParser.Parse(made.Script, Vocabulary.For(rig, rig.Program)).Program).All(n => n.Kind == "regions");
        }
        catch (Quantities.InputProblem)
        {
            // What cannot be put in as it stands is not proposed to those who are to begin with little.
            return false;
        }
    }

    private static bool Has(IReadOnlyList<string> offered, Dictionary<string, string> kinds, string text) =>
        !kinds.TryGetValue(text, out var kind) || offered.Contains(kind);

    /// <summary>Every sentence of a program that is not offered, in the order of lines; of one line each kind once.</summary>
    /// <param name="program">The program; it may have faults.</param>
    public IReadOnlyList<NotOffered> In(ProgramNode program)
    {
        var found = new List<NotOffered>();
        if (!Regions)
        {
            const string One = "Several regions are not part of this lesson: one is enough for it.";
            found.AddRange(program.Regions.Skip(1).Select(r => new NotOffered(r.Span.Line, "regions", One)));
            found.AddRange(program.AllStates.SelectMany(s => s.Regions).Select(r => new NotOffered(r.Span.Line, "regions", One)));
        }
        if (!Routines)
            found.AddRange(program.Routines.Select(r => new NotOffered(r.Span.Line, "routines", "Routines are not part of this lesson.")));
        foreach (var line in program.AllStates.SelectMany(s => s.Lines))
        {
            var number = line.Span.Line;
            if (line is TransitionNode transition && To(transition.Trigger) is { } said)
                found.Add(new(number, SentenceKinds.Of(transition.Trigger), said));
            foreach (var action in UsedSentences.Actions(line))
                if (To(action) is { } say)
                    found.Add(new(number, SentenceKinds.Of(action) ?? "routines", say));
        }
        return [.. found.DistinctBy(f => (f.Line, f.Kind)).OrderBy(f => f.Line).ThenBy(f => f.Kind, StringComparer.Ordinal)];
    }
}

/// <summary>Which kinds of sentences a program uses: what a lesson about it must offer at least.</summary>
public static class UsedSentences
{
    /// <summary>The kinds, in the order lessons choose from.</summary>
    /// <param name="program">The program; it may have faults.</param>
    public static Offered In(ProgramNode program)
    {
        var lines = program.AllStates.SelectMany(s => s.Lines).ToArray();
        var triggers = lines.OfType<TransitionNode>().Select(t => SentenceKinds.Of(t.Trigger)).ToHashSet();
        var actions = lines.SelectMany(Actions).Select(SentenceKinds.Of).ToHashSet();
        return new(
            [.. SentenceKinds.Triggers.Select(k => k.Key).Where(triggers.Contains)],
            [.. SentenceKinds.Actions.Select(k => k.Key).Where(actions.Contains)],
            program.Regions.Count > 1 || program.AllStates.Any(s => s.Regions.Count > 0),
            program.Routines.Count > 0
        );
    }

    /// <summary>Every action of a sentence, those within others too.</summary>
    internal static IEnumerable<ActionNode> Actions(LineNode line)
    {
        var waiting = new Stack<ActionNode>(
            line switch
            {
                ActivityNode a => a.Actions,
                TransitionNode t => t.Actions,
                _ => [],
            }
        );
        while (waiting.TryPop(out var action))
        {
            yield return action;
            foreach (var inner in action.Inner)
                waiting.Push(inner);
        }
    }
}
