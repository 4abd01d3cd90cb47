using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>What came of looking for one thing.</summary>
public enum LookedState
{
    /// <summary>Looked for, and not there.</summary>
    Nothing,

    /// <summary>Looked for, and found.</summary>
    Found,

    /// <summary>Not looked for yet.</summary>
    NotYet,

    /// <summary>Cannot be looked for.</summary>
    Cannot,
}

/// <summary>What came of looking for one thing of the catalogue.</summary>
/// <param name="Code">Its code.</param>
/// <param name="Title">What it is about.</param>
/// <param name="Says">What it finds.</param>
/// <param name="Part">The part in whose margin it stands.</param>
/// <param name="State">What came of it.</param>
/// <param name="Count">How many were found.</param>
/// <param name="Why">Why it was not, or cannot be, looked for; null where it was.</param>
public sealed record Looked(string Code, string Title, string Says, string Part, LookedState State, int Count, string? Why);

/// <summary>Everything that is looked for.</summary>
public static class Catalogue
{
    /// <summary>Every check there is.</summary>
    public static IReadOnlyList<Check> All { get; } =
    [
        .. RigChecks.All,
        .. RailVehicleChecks.All,
        new NeverReached(),
        new SameTrigger(),
        new GaveUp(),
        new WaitsForever(),
        new Unheard(),
        new TooLittle(),
        new Flashing(),
        new ValueUnused(),
        new RoutineUnused(),
        new Interlock(),
        new TwoDriversCheck(),
        new NoWayOut(),
        new RunsOnCheck(),
        new AlreadyThere(),
        new MarkerTwice(),
        new NoWord(),
        new SilenceCheck(),
        new Trap(),
        new DoneGuessed(),
        new ZoneBandless(),
        new ZoneBlind(),
        new UnitMixed(),
        new SpringsBack(),
        new StartAssumed(),
        new Jam(),
        new DeadBand(),
        new UnevenBranches(),
        new StopLate(),
        new LineLost(),
        new LateCheck(),
        new WrongController(),
        new GoalUnjudged(),
        new SurfaceUnknown(),
        new EdgeBlind(),
        new SelfSeen(),
        new NotSent(),
        new ZoneGap(),
        new ZoneOverlap(),
        new ZoneLookalike(),
        new ClicksMissed(),
        new WrongWay(),
        new ReactLate(),
        new TurnClearance(),
        new SweepFast(),
        new LoadLoose(),
        new PathWide(),
        new GoalMissed(),
        new GoalTooShort(),
        new NeverTriggered(),
    ];

    /// <summary>What the sheet refuses as it is written, so that no program that can be read has it.</summary>
    public static IReadOnlyList<(string Code, string Title, string Says)> Refused { get; } =
    [
        (
            "stall-unseen",
            "A stall that nobody notices",
            "A sentence waits until a motor stalls, and that motor counts nothing, so nobody ever hears that it stands. The sheet "
                + "refuses such a "
                + "line as it is written."
        ),
    ];

    /// <summary>Looks for everything in every program that runs.</summary>
    /// <param name="inputs">The programs, each with all.</param>
    public static IReadOnlyList<Finding> Find(IEnumerable<CheckInput> inputs)
    {
        var found = new List<Finding>();
        foreach (var input in inputs)
        {
            var own = All.Where(c => c.Cannot(input) is null)
                .SelectMany(c => c.Find(input))
                .Select(f => BenchSays.Judge(input, f))
                .Select(f => f with { Program = input.Program.Index })
                .OrderBy(f => f.Line == 0 ? int.MaxValue : f.Line)
                .ThenBy(f => f.Severity);
            // The same thing said of two programs is one finding each: what differs is the program.
            var keyed = own.GroupBy(f => (f.Code, f.Owner, f.Device))
                .SelectMany(same => same.Select((f, i) => f with { Key = KeyOf(f, i + 1) }))
                .ToArray();
            found.AddRange(Folding.Fold(input, keyed));
        }
        return [.. found.OrderBy(f => f.Program).ThenBy(f => f.Line == 0 ? int.MaxValue : f.Line).ThenBy(f => f.Severity)];
    }

    // By what it is and whose, never by a line: lines move when others are written above them.
    private static string KeyOf(Finding f, int ordinal) =>
        string.Join('~', new[] { f.Code, $"{f.Program}", f.Owner, f.Device ?? "", $"{ordinal}" }.Select(Uri.EscapeDataString));

    /// <summary>What came of looking, thing by thing.</summary>
    /// <param name="inputs">The programs.</param>
    /// <param name="findings">What was found; null where nothing could be looked at.</param>
    /// <param name="unread">Why not everything could be looked at; null where it could.</param>
    public static IReadOnlyList<Looked> Looked(IReadOnlyList<CheckInput> inputs, IReadOnlyList<Finding>? findings, string? unread) =>
        [
            .. All.Select(c =>
            {
                var count = findings?.Count(f => f.Code == c.Code && f.Severity != Severity.Holds) ?? 0;
                var why = unread ?? (inputs.Count > 0 && inputs.All(i => c.Cannot(i) is not null) ? c.Cannot(inputs[0]) : null);
                var unsettled = inputs.Select(c.Unsettled).FirstOrDefault(u => u is not null);
                return new Looked(
                    c.Code,
                    c.Title,
                    c.Says,
                    c.Part,
                    count > 0 ? LookedState.Found
                        // In what could not be read it may be: silence is no answer.
                        : why is not null ? LookedState.Cannot
                        : unsettled is not null ? LookedState.NotYet
                        : LookedState.Nothing,
                    count,
                    count > 0 ? null : why ?? unsettled
                );
            }),
            .. Refused.Select(r => new Looked(
                r.Code,
                r.Title,
                r.Says,
                "program",
                unread is null ? LookedState.Nothing : LookedState.Cannot,
                0,
                unread
            )),
        ];
}
