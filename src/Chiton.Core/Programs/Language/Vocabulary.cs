using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>A sensor and its zone names.</summary>
public sealed record SensorWord(string Name, IReadOnlyList<string> Zones)
{
    /// <summary>True for what is pressed and released.</summary>
    public bool Switch { get; init; }

    /// <summary>What its reading measures; null when it is no single number.</summary>
    public Dimension? Reads { get; init; }

    /// <summary>True when its zones are told apart by thresholds between readings, so that a program can teach them.</summary>
    public bool Teachable { get; init; }

    /// <summary>True for what can answer that nothing is there to hear.</summary>
    public bool MayHearNothing { get; init; }

    /// <summary>The zone that its silence counts as; null when it counts as none.</summary>
    public string? SilenceIs { get; init; }

    /// <summary>What it answers when it hears nothing, base units; null when it answers nothing.</summary>
    public double? SilentReading { get; init; }

    /// <summary>Readings below this tell nothing, base units: things in its blind zone.</summary>
    public double BlindBelow { get; init; }

    /// <summary>Time between its readings, ms.</summary>
    public double PeriodMs { get; init; } = 10;
}

/// <summary>An actuator.</summary>
public sealed record ActuatorWord(string Name, ActuatorKind Kind)
{
    /// <summary>Whether a stall of it is noticed.</summary>
    public bool NoticesStall { get; init; } = Kind == ActuatorKind.RegulatedMotor;
}

/// <summary>A mechanism.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Kind">What it is.</param>
/// <param name="Motor">Kind of its motors; null when it has none.</param>
/// <param name="Positions">Its named positions.</param>
/// <param name="Directions">Its named directions.</param>
public sealed record MechanismWord(
    string Name,
    MechanismKind Kind,
    ActuatorKind? Motor,
    IReadOnlyList<string> Positions,
    IReadOnlyList<string> Directions
)
{
    /// <summary>How it goes over the ground.</summary>
    public Going Going => MechanismFacts.Of(Kind).Going;

    /// <summary>Whether a sensor tells one of its ends, so that it can be sent home.</summary>
    public bool HasHome { get; init; } = true;

    /// <summary>Its motors: commanding one of them is commanding it.</summary>
    public IReadOnlyList<string> Motors { get; init; } = [];
}

/// <summary>The names a rig gives to a program.</summary>
/// <param name="Sensors">Sensors in rig order.</param>
/// <param name="Actuators">Actuators in rig order.</param>
/// <param name="Places">Places that goals may name.</param>
public sealed record Vocabulary(IReadOnlyList<SensorWord> Sensors, IReadOnlyList<ActuatorWord> Actuators, IReadOnlyList<string> Places)
{
    /// <summary>Mechanisms in rig order.</summary>
    public IReadOnlyList<MechanismWord> Mechanisms { get; init; } = [];

    /// <summary>Things of the scenes that goals may name, one and several of them.</summary>
    public IReadOnlyList<string> Things { get; init; } = [];

    /// <summary>The controller that the program runs on; null on a host, and where nobody says.</summary>
    public string? Here { get; init; }

    /// <summary>Controllers of what is wired elsewhere, by name of the device or mechanism: a program commands only what its own
    /// has.</summary>
    public IReadOnlyDictionary<string, string> Elsewhere { get; init; } = NothingElsewhere;

    private static readonly Dictionary<string, string> NothingElsewhere = [];

    /// <summary>Values that the place of the program gives, by name.</summary>
    public IReadOnlyDictionary<string, ExprNode> Given { get; init; } = NothingGiven;

    private static readonly Dictionary<string, ExprNode> NothingGiven = [];

    /// <summary>Devices of the program's own controller that are called otherwise outside of it.</summary>
    public IReadOnlyList<OwnName> OwnNames { get; init; } = [];

    /// <summary>Programs of the rig that can be told something.</summary>
    public IReadOnlyList<string> Programs { get; init; } = [];

    /// <summary>Loads that goals may name.</summary>
    public IReadOnlyList<string> Loads { get; init; } = [];

    /// <summary>The names of a rig as one of its programs knows them: on a controller, what hangs on others is out of its reach.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="program">The program; null for a rig without any.</param>
    public static Vocabulary For(RigDesign rig, ProgramText? program)
    {
        var words = Of(rig);
        if (program is null)
            return words;
        if (program.Values.Count > 0)
            words = words with { Given = program.Values.GroupBy(v => v.Name).ToDictionary(g => g.Key, g => Placing.Node(g.First())) };
        if (rig.PlaceOf(program) is not { } here)
            return words;
        words = words.Seen(Placing.OwnNames(rig, here));
        bool Runs(string controller) => rig.Controllers.Any(c => c.Name == controller && c.Role == NodeRole.Controller);
        var elsewhere = new Dictionary<string, string>();
        foreach (var actuator in rig.Actuators)
        {
            string[] homes =
            [
                .. rig.Wires.Where(w => w.Device == actuator.Name && Runs(w.Controller)).Select(w => w.Controller).Distinct(),
            ];
            if (homes.Length > 0 && !homes.Contains(here))
                elsewhere[actuator.Name] = homes[0];
        }
        // A mechanism is out of reach as soon as one of its motors is.
        foreach (var m in rig.Mechanisms)
            if (m.Motors.FirstOrDefault(elsewhere.ContainsKey) is { } far)
                elsewhere[m.Name] = elsewhere[far];
        // What is called by its short name here is here.
        foreach (var own in words.OwnNames)
        {
            elsewhere.Remove(own.Outside);
            elsewhere.Remove(own.Name);
        }
        return elsewhere.Count == 0 ? words : words with { Here = here, Elsewhere = elsewhere };
    }

    // The same names with those of the own devices as the program says them; a like-named device elsewhere is out of sight.
    private Vocabulary Seen(IReadOnlyList<OwnName> own)
    {
        if (own.Count == 0)
            return this;
        var inside = own.ToDictionary(o => o.Outside, o => o.Name);
        var hidden = own.Select(o => o.Name).ToHashSet();
        string Say(string name) => inside.GetValueOrDefault(name, name);
        bool Stands(string name) => inside.ContainsKey(name) || !hidden.Contains(name);
        return this with
        {
            OwnNames = own,
            Sensors = [.. Sensors.Where(s => Stands(s.Name)).Select(s => s with { Name = Say(s.Name) })],
            Actuators = [.. Actuators.Where(a => Stands(a.Name)).Select(a => a with { Name = Say(a.Name) })],
            Mechanisms =
            [
                .. Mechanisms.Where(m => Stands(m.Name)).Select(m => m with { Name = Say(m.Name), Motors = [.. m.Motors.Select(Say)] }),
            ],
        };
    }

    /// <summary>The names of a rig.</summary>
    public static Vocabulary Of(RigDesign rig) =>
        new(
            [
                .. rig
                    .Sensors.Where(e => e.Zones.Count > 0)
                    .Select(e => new SensorWord(e.Name, e.Zones.ToArray())
                    {
                        Switch = e.Facts.View == "switch",
                        Reads = e.Facts.View is "scalar" or "bands"
                            ? Quantities.Unit.Find(e.Facts.Unit)?.Dimension ?? Dimension.None
                            : null,
                        Teachable = e.Facts is { View: "scalar", Width: 1 } && e.Bands.Count == 0,
                        PeriodMs = e.SamplePeriodMs,
                        MayHearNothing = e.Facts.Signal == SensorSignal.Range,
                        SilenceIs = e.SilenceIs,
                        SilentReading = e.SilentReading,
                        BlindBelow = e.Facts.Signal == SensorSignal.Range ? e.BlindMm?.Value ?? 0 : 0,
                    }),
            ],
            [.. rig.Actuators.Select(a => new ActuatorWord(a.Name, a.Kind) { NoticesStall = a.StallIsNoticed })],
            [.. (rig.Rail?.Markers.Select(m => m.Name) ?? []).Concat(rig.Scenes.SelectMany(s => s.Places)).Distinct()]
        )
        {
            Things = [.. rig.Scenes.SelectMany(s => s.Things).Distinct()],
            Mechanisms =
            [
                .. rig.Mechanisms.Select(m => new MechanismWord(
                    m.Name,
                    m.Kind,
                    rig.Actuators.FirstOrDefault(a => a.Name == m.Motor)?.Kind,
                    m.Positions.ToArray(),
                    [.. m.Directions.Select(d => d.Name)]
                )
                {
                    Motors = m.Motors.ToArray(),
                    HasHome = m.Travel is { Home: not HomeEnd.None },
                }),
            ],
            Programs = [.. Placing.Names(rig).OfType<string>().Distinct()],
            Loads = [.. rig.Starts.Select(s => s.What).Where(w => w != rig.Name).Distinct()],
        };

    /// <summary>Names of the actuators of some kinds.</summary>
    public IEnumerable<string> Named(params ActuatorKind[] kinds) => Actuators.Where(a => kinds.Contains(a.Kind)).Select(a => a.Name);

    /// <summary>Names of mechanisms moved by some kinds of motor.</summary>
    public IEnumerable<string> Moved(params ActuatorKind[] kinds) =>
        Mechanisms.Where(m => m.Motor is { } k && kinds.Contains(k)).Select(m => m.Name);

    /// <summary>The kind of motor behind a name, of an actuator or a mechanism; null when it is neither.</summary>
    public ActuatorKind? MotorOf(string name) =>
        Mechanisms.FirstOrDefault(m => m.Name == name)?.Motor ?? Actuators.FirstOrDefault(a => a.Name == name)?.Kind;

    /// <summary>Whether a stall of an actuator or of all motors of a mechanism is noticed; where its motors are not named, as their kind
    /// does.</summary>
    public bool NoticesStall(string name)
    {
        if (Mechanisms.FirstOrDefault(m => m.Name == name) is { } mechanism)
        {
            ActuatorWord[] motors = [.. Actuators.Where(a => mechanism.Motors.Contains(a.Name))];
            return motors.Length > 0 ? motors.All(a => a.NoticesStall) : mechanism.Motor is null or ActuatorKind.RegulatedMotor;
        }
        return Actuators.FirstOrDefault(a => a.Name == name)?.NoticesStall ?? true;
    }

    /// <summary>Everything that can be commanded.</summary>
    public IEnumerable<string> Commanded => Mechanisms.Select(m => m.Name).Concat(Actuators.Select(a => a.Name)).Distinct();
}

/// <summary>The nearest of some names to a misspelt one.</summary>
public static class NearMiss
{
    /// <summary>The nearest name within a third of its length in edits (at least one), or null.</summary>
    public static string? Find(string typed, IEnumerable<string> names) => Nearest(typed, names)?.Name;

    /// <summary>The nearest name and how many edits away it is; null when none is near.</summary>
    public static (string Name, int Edits)? Nearest(string typed, IEnumerable<string> names)
    {
        (string Name, int Edits)? best = null;
        foreach (var name in names)
        {
            var edits = Distance(typed.ToLowerInvariant(), name.ToLowerInvariant());
            var allowed = Math.Max(1, Math.Max(name.Length, typed.Length) / 3);
            // A word of one letter is near to every other: that is no hint.
            if (edits <= allowed && edits < Math.Min(name.Length, typed.Length) && (best is null || edits < best.Value.Edits))
                best = (name, edits);
        }
        return best;
    }

    // Edit distance with swapped neighbours counted once (optimal string alignment).
    private static int Distance(string a, string b)
    {
        var d = new int[a.Length + 1, b.Length + 1];
        for (var i = 0; i <= a.Length; i++)
            d[i, 0] = i;
        for (var j = 0; j <= b.Length; j++)
            d[0, j] = j;
        for (var i = 1; i <= a.Length; i++)
        for (var j = 1; j <= b.Length; j++)
        {
            var change = a[i - 1] == b[j - 1] ? 0 : 1;
            d[i, j] = Math.Min(Math.Min(d[i - 1, j] + 1, d[i, j - 1] + 1), d[i - 1, j - 1] + change);
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                d[i, j] = Math.Min(d[i, j], d[i - 2, j - 2] + 1);
        }
        return d[a.Length, b.Length];
    }
}
