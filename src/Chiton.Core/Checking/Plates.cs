using Chiton.Core.Motion;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Checking;

/// <summary>What a plate knows of its part.</summary>
public enum PlateState
{
    /// <summary>Looked at, and nothing wrong.</summary>
    Fine,

    /// <summary>Something is to be settled.</summary>
    Attention,

    /// <summary>Not looked at yet, or not all of it.</summary>
    NotLooked,

    /// <summary>Cannot be looked at.</summary>
    Cannot,
}

/// <summary>One of the eight plates.</summary>
/// <param name="Part">The part.</param>
/// <param name="Number">Its number, from 1.</param>
/// <param name="Line">Its state in at most 20 characters.</param>
/// <param name="State">What is known.</param>
/// <param name="Why">The same in a sentence: what was looked at, or why it cannot be.</param>
public sealed record Plate(string Part, int Number, string Line, PlateState State, string Why)
{
    /// <summary>True when something is to be settled.</summary>
    public bool Attention => State == PlateState.Attention;
}

/// <summary>What the plates speak of.</summary>
/// <param name="Design">The design.</param>
/// <param name="Judged">Its sensors, judged on the copy.</param>
/// <param name="Moves">How the copy moves, as far as trials tell.</param>
/// <param name="Motion">How its rail vehicle moves; null for others.</param>
/// <param name="Parsed">Its program.</param>
/// <param name="Findings">What was found in the program; null while it has faults or nothing is written.</param>
/// <param name="Deviations">In what this copy deviates from the others, in sentences.</param>
/// <param name="Hindrance">Why it cannot be run; null when it can.</param>
/// <param name="Run">How the latest run ended; null when there was none.</param>
/// <param name="Proof">The best proof of what there is now; null when there is none.</param>
/// <param name="OldProof">True when there is a proof of something earlier.</param>
/// <param name="Copies">How many copies there are: of two that differ nobody knows which deviates.</param>
public sealed record PlateFacts(
    RigDesign Design,
    RigJudgement Judged,
    CopyMoves Moves,
    RailMotion? Motion,
    ParseResult Parsed,
    IReadOnlyList<Finding>? Findings,
    IReadOnlyList<string> Deviations,
    string? Hindrance,
    (bool Passed, double EndS)? Run,
    (int Runs, int Passes)? Proof,
    bool OldProof,
    int Copies = 1
)
{
    /// <summary>What was looked for, and what came of it; null where nothing was.</summary>
    public IReadOnlyList<Looked>? Looked { get; init; }

    /// <summary>Runs on the table of the revision that ran last, and whether as many passed as were promised (null where nothing was), or,
    /// where that was worked out after the first run, as were to be expected; null where none was logged.</summary>
    public (int Passes, int Runs, bool? AsPromised, bool Afterwards)? Logged { get; init; }
}

/// <summary>The lines of the eight plates. Each says only what is known: nothing wrong, not looked at, and cannot be looked at are three
/// things.</summary>
public static class Plates
{
    /// <summary>All eight.</summary>
    public static IReadOnlyList<Plate> Of(PlateFacts facts) =>
        [Rig(facts.Design), Sense(facts), Move(facts), Program(facts), Check(facts), Simulate(facts), Prove(facts), Log(facts.Logged)];

    private static Plate Log((int Passes, int Runs, bool? AsPromised, bool Afterwards)? logged)
    {
        Plate Made(string line, PlateState state, string why) => new("log", 8, line, state, why);
        if (logged is not { } log)
            return Made("nothing logged", PlateState.NotLooked, "No run of the real rig was logged yet.");
        var count = $"{log.Passes} of {log.Runs}";
        // A plate has room for twenty characters.
        string Fit(params string[] lines) => lines.FirstOrDefault(l => l.Length <= 20) ?? count;
        // Nobody promised what was worked out since.
        var (word, told) = log.Afterwards
            ? ("expected", "was to be expected, as was worked out since")
            : ("promised", "the bench had promised");
        return log.AsPromised switch
        {
            true => Made(
                Fit($"{count}, as {word}", $"{count} as {word}", $"{count} passed"),
                PlateState.Fine,
                $"Of the runs on the table as many passed as {told}."
            ),
            false => Made(
                Fit($"{count}, a surprise", $"{count} passed"),
                PlateState.Attention,
                $"Of the runs on the table fewer or more passed than {told}."
            ),
            null => Made(Fit($"{count} passed"), PlateState.NotLooked, "Nothing was promised of the revision that ran on the table."),
        };
    }

    private static Plate Rig(RigDesign rig)
    {
        Plate Made(string line, PlateState state, string why) => new("rig", 1, line, state, why);
        if (!rig.Devices.Any())
            return Made("no devices yet", PlateState.Attention, "Describe its devices in Rig.");
        if (rig.WiringFaults().Count is > 0 and var wiring)
            return Made(Figures.Count(wiring, "wiring fault"), PlateState.Attention, "The port map says what is wrong and what cures it.");
        try
        {
            if (rig.Power is not { } power)
                return Made(
                    "supply not described",
                    PlateState.NotLooked,
                    "Every lead is wired; nobody said yet what feeds the rig, so its supply was not looked at."
                );
            if (power.Budget().Result.Issues.Count is > 0 and var issues)
                return Made(Figures.Count(issues, "power issue"), PlateState.Attention, "The power sheet says what is not fed right.");
        }
        catch (InputProblem)
        {
            return Made(
                "supply not described",
                PlateState.NotLooked,
                "Every lead is wired; of what feeds the rig a number is missing, so its supply was not looked at."
            );
        }
        return Made(
            Figures.Count(rig.Devices.Count(), "device") + " wired",
            PlateState.Fine,
            "Every lead is at a port that serves it, and the supply suffices."
        );
    }

    private static Plate Sense(PlateFacts f)
    {
        Plate Made(string line, PlateState state, string why) => new("sense", 2, line, state, why);
        var sensors = f.Judged.Sensors;
        if (sensors.Count == 0)
            return Made("no sensors", PlateState.Fine, "This rig has no sensor.");
        var weak = sensors.Where(s => s.Grade is > Grade.Workable).ToArray();
        if (weak.Length > 0)
            return Made(
                weak.Length == 1 ? $"1 sensor {weak[0].Grade.ToString()!.ToLowerInvariant()}" : $"{weak.Length} sensors are weak",
                PlateState.Attention,
                $"{weak[0].Sensor}: {weak[0].Say}"
            );
        if (sensors.Count(s => s.Stale is not null) is > 0 and var stale)
            return Made(Figures.Count(stale, "stale sensor"), PlateState.Attention, sensors.First(s => s.Stale is not null).Stale!);
        if (f.Deviations.Count > 0)
            return Made(f.Copies == 2 ? "the copies differ" : "this copy deviates", PlateState.Attention, f.Deviations[0]);
        var unread = sensors.Count(s => s.Grade is null);
        if (unread == sensors.Count)
            return Made("no readings yet", PlateState.NotLooked, "Nothing was recorded on this copy yet.");
        if (unread > 0)
            return Made(
                $"{unread} without readings",
                PlateState.NotLooked,
                $"Nothing was recorded yet of {Figures.List(sensors.Where(s => s.Grade is null).Select(s => s.Sensor).Take(4))}."
            );
        var workable = sensors.Count(s => s.Grade == Grade.Workable);
        return workable > 0
            ? Made(
                workable == sensors.Count ? "all workable" : $"{workable} only workable",
                PlateState.Fine,
                $"{Figures.List(sensors.Where(s => s.Grade == Grade.Workable).Select(s => s.Sensor).Take(4))} can be used, with some "
                    + "care: Sense says which."
            )
            : Made("every sensor holds", PlateState.Fine, "Every sensor tells its zones apart on this copy.");
    }

    private static Plate Move(PlateFacts f)
    {
        Plate Made(string line, PlateState state, string why) => new("move", 3, line, state, why);
        // Of a rail vehicle every number counts; of others those that its moves are worked out with.
        List<(string Name, Provenance? Kind)> numbers = f.Motion is { } motion
            ? [.. motion.Named.Select(n => (n.Name, (Provenance?)n.Number.Kind))]
            :
            [
                .. f
                    .Moves.Plans.Where(p =>
                        p.Kind is TrialKind.Straight or TrialKind.Turn or TrialKind.Travel or TrialKind.Duration or TrialKind.Swing
                        // What a power brings matters where moves end by it: not of a brush or a belt that only runs.
                        || p.Kind is TrialKind.Speed or TrialKind.LeastPower
                            && p.NumberUnit != "motor deg/s"
                            && f.Design.Mechanisms.Any(m =>
                                m.Name == p.Mechanism && (m.Facts.Going != Going.Nowhere || m.Travel is not null)
                            )
                    )
                    .Select(p => ($"{p.Number} of {p.Mechanism}", f.Moves.InUse(p)?.Kind)),
            ];
        if (numbers.Count == 0)
            return Made("nothing to try", PlateState.Fine, "Nothing on this rig moves in a way that trials could measure.");
        var unknown = numbers.Where(n => n.Kind is null).Select(n => n.Name).ToArray();
        if (unknown.Length > 0)
            return Made(
                $"{unknown.Length} not known",
                PlateState.Attention,
                $"Nobody knows yet: {Figures.List(unknown.Take(4))}. Trials find them."
            );
        var guesses = numbers.Where(n => n.Kind == Provenance.Guessed).Select(n => n.Name).ToArray();
        return guesses.Length > 0
            ? Made(
                Figures.Count(guesses.Length, "guess", "guesses"),
                PlateState.Attention,
                $"Guessed and never tried on this copy: {Figures.List(guesses.Take(4))}."
            )
            : Made("all known", PlateState.Fine, "Every number that its moves are worked out with was measured or chosen.");
    }

    private static Plate Program(PlateFacts f)
    {
        Plate Made(string line, PlateState state, string why) => new("program", 4, line, state, why);
        var states = f.Parsed.Program.AllStates.Count();
        if (states == 0)
            return Made("nothing written yet", PlateState.NotLooked, "The program has no state yet.");
        if (f.Parsed.Diagnostics.Count is > 0 and var faults)
            return Made(
                Figures.Count(faults, "fault"),
                PlateState.Attention,
                $"Line {f.Parsed.Diagnostics[0].Line}: {f.Parsed.Diagnostics[0].Message}"
            );
        return Made(Figures.Count(states, "state"), PlateState.Fine, "Every sentence can be read.");
    }

    private static Plate Check(PlateFacts f)
    {
        Plate Made(string line, PlateState state, string why) => new("check", 5, line, state, why);
        if (f.Findings is null)
            return Made("waits for program", PlateState.Cannot, "A program without faults can be looked at.");
        if (f.Findings.Where(x => x.Severity is Severity.Stops or Severity.Risky).ToArray() is { Length: > 0 } found)
            return Made($"{found.Length} to settle", PlateState.Attention, found[0].Headline + ".");
        // What was not looked at to the end is no “nothing”.
        var open = (f.Looked ?? []).Where(l => l.State == LookedState.NotYet).ToArray();
        if (f.Looked is { } looked && open.Length == 0)
            return Made(
                "nothing to settle",
                PlateState.Fine,
                $"{Figures.Count(looked.Count(l => l.State != LookedState.Cannot), "thing")} were looked for, and the bench was run. "
                    + $"{looked.Count(l => l.State == LookedState.Cannot)} cannot be looked for on this rig; the page says why."
            );
        return Made(
            "nothing found so far",
            PlateState.NotLooked,
            open.Length == 0
                ? "Not looked at to the end."
                : $"Not looked at to the end: {Figures.List([.. open.Take(3).Select(l => l.Title.ToLowerInvariant())])}"
                    + $"{(open.Length > 3 ? $", and {open.Length - 3} more" : "")}. {open[0].Why}"
        );
    }

    private static Plate Simulate(PlateFacts f)
    {
        Plate Made(string line, PlateState state, string why) => new("simulate", 6, line, state, why);
        if (f.Run is { } run)
            return Made(
                $"last {(run.Passed ? "passed" : "failed")} {Figures.Show(run.EndS, 3)} s",
                run.Passed ? PlateState.Fine : PlateState.Attention,
                $"The latest run {(run.Passed ? "passed" : "failed")} after {Figures.Show(run.EndS, 3)} s."
            );
        return Hindered(f) is { } why
            ? Made("cannot run yet", PlateState.Cannot, why)
            : Made("not run yet", PlateState.NotLooked, "No run was watched yet.");
    }

    private static Plate Prove(PlateFacts f)
    {
        Plate Made(string line, PlateState state, string why) => new("prove", 7, line, state, why);
        if (f.Proof is { } proof)
            return Made(
                $"{proof.Passes} of {proof.Runs} pass",
                proof.Passes < 0.9 * proof.Runs ? PlateState.Attention : PlateState.Fine,
                $"{proof.Passes} of {proof.Runs} runs passed."
            );
        if (Hindered(f) is { } why)
            return Made("cannot run yet", PlateState.Cannot, why);
        return f.OldProof
            ? Made("out of date", PlateState.NotLooked, "Something changed since the last proof.")
            : Made("not proved yet", PlateState.NotLooked, "No runs were counted yet.");
    }

    private static string? Hindered(PlateFacts f) =>
        !f.Parsed.Program.AllStates.Any() ? "The program has no state yet."
        : f.Parsed.Diagnostics.Count > 0 ? "The program has faults."
        : f.Hindrance;
}
