using System.Text.Json.Serialization;
using Chiton.Core.Quantities;

namespace Chiton.Core.Rigs;

/// <summary>
/// The design of a rig: what all its copies share. It is a versioned document; readings, trials and calibrations
/// belong to a copy and are not in it.
/// </summary>
/// <param name="Name">What the rig is called.</param>
/// <param name="Place">Whose rig it is, shown above its name.</param>
/// <param name="Controllers">Controllers, strips and packs.</param>
/// <param name="Sensors">Sensors in rig order; readings that fall in the same step are handled in this order.</param>
/// <param name="Actuators">Actuators in rig order.</param>
public sealed record RigDesign(
    string Name,
    string Place,
    Sequence<Controller> Controllers,
    Sequence<Sensor> Sensors,
    Sequence<Actuator> Actuators
)
{
    /// <summary>Which lead of which device runs to which port.</summary>
    public Sequence<Wire> Wires { get; init; }

    /// <summary>Leads between two ports, such as ground to ground.</summary>
    public Sequence<Link> Links { get; init; }

    /// <summary>Leads at hand, by their two ends.</summary>
    public Sequence<LeadStock> LeadsAtHand { get; init; }

    /// <summary>What the actuators move.</summary>
    public Sequence<Mechanism> Mechanisms { get; init; }

    /// <summary>Outline of the body seen from above, corner by corner; empty while not drawn.</summary>
    public Sequence<Corner> Outline { get; init; }

    /// <summary>How the rig and its loads are put down by hand; the rig itself first.</summary>
    public Sequence<Placement> Starts { get; init; }

    /// <summary>The line it runs on; null when it runs on none.</summary>
    public Rail? Rail { get; init; }

    /// <summary>Where the rig is tried; the first is used where none is named.</summary>
    public Sequence<SceneText> Scenes { get; init; }

    /// <summary>Programs of its controllers and of a host. A controller may store several, of which one runs.</summary>
    public Sequence<ProgramText> Programs { get; init; }

    /// <summary>How long a message from one controller, or a host's command, takes to arrive, ms; null while nothing was said.</summary>
    public Quantity? MessageDelay { get; init; }

    /// <summary>Walks through its programs that were kept, as examples for lessons.</summary>
    public Sequence<StoredWalk> Walks { get; init; }

    /// <summary>What feeds the rig and what its devices draw; null while nothing is known of it.</summary>
    public RigPower? Power { get; init; }

    /// <summary>Sensors, then actuators.</summary>
    [JsonIgnore]
    public IEnumerable<Device> Devices => [.. Sensors, .. Actuators];

    /// <summary>The device of that name, or null.</summary>
    public Device? Find(string name) => Devices.FirstOrDefault(d => d.Name == name);

    /// <summary>The reflected-light eyes in rig order.</summary>
    [JsonIgnore]
    public IEnumerable<Sensor> Eyes => Sensors.Where(s => s.Kind == SensorKind.ReflectedLight);

    /// <summary>The first rail vehicle, or null.</summary>
    [JsonIgnore]
    public Mechanism? Vehicle => Mechanisms.FirstOrDefault(m => m.Facts.Going == Going.OnRail);

    /// <summary>The devices as the port map sees them.</summary>
    [JsonIgnore]
    public IReadOnlyList<Plug> Plugs =>
        [
            .. Devices.Select(d => new Plug(
                d.Name,
                [.. d.Leads.Select(l => l.AnyOf == PortUse.Supply ? l with { FromPack = FedByPack(d.Name) } : l)]
            )),
        ];

    // Only a rig that has a pack of its own in the map can say which leads must run there.
    private bool? FedByPack(string device) =>
        Controllers.Any(c => c.Role == NodeRole.Pack) && Power?.Devices.FirstOrDefault(p => p.Name == device)?.SuppliedBy is { } by
            ? by == "pack"
            : null;

    /// <summary>What is wrong with the wiring.</summary>
    public IReadOnlyList<WiringFault> WiringFaults() =>
        PortAssignment.Check(Controllers.ToArray(), Plugs, Wires.ToArray(), Links.ToArray());

    /// <summary>What is wired where it cannot work: to a port that cannot do what it needs, or to one that another device has too. What
    /// is not wired at all is not meant.</summary>
    public IReadOnlyList<(string Device, string Say)> WiredWrong()
    {
        if (Wires.Count == 0)
            return [];
        bool Feeds(string device, string? lead) => Find(device)?.Leads.FirstOrDefault(l => l.Name == lead)?.Feeds ?? true;
        var wrong = new List<(string, string)>();
        foreach (var fault in WiringFaults())
            if (fault.Code is "wiring-kind" or "wiring-clash")
                foreach (var wire in Wires.Where(w => w.Controller == fault.Controller && w.Port == fault.Port))
                    // A supply that is shared or of the wrong kind is told by its own checks.
                    if (!Feeds(wire.Device, wire.Lead) && (fault.Code == "wiring-clash" || wire.Device == fault.Device))
                        wrong.Add((wire.Device, fault.Say));
        return [.. wrong.DistinctBy(w => w.Item1)];
    }

    /// <summary>Which program is meant when none is named: the first that runs, or the first of all.</summary>
    [JsonIgnore]
    public int MainProgram => Programs.Select((p, i) => (p, i)).Where(x => !x.p.Stored).Select(x => x.i).FirstOrDefault();

    /// <summary>The first program that runs.</summary>
    [JsonIgnore]
    public ProgramText Program => ProgramAt(MainProgram);

    /// <summary>A program by its place.</summary>
    public ProgramText ProgramAt(int index) => index >= 0 && index < Programs.Count ? Programs[index] : new($"program {Name}\n", []);

    /// <summary>The same design with another text for one of its programs.</summary>
    public RigDesign WithProgram(int index, ProgramText program) =>
        this with
        {
            Programs = Programs.Count > 0 ? Programs.With(index, program) : [program],
        };

    /// <summary>The controller a program is on; null on a host, or when the rig has no controller.</summary>
    public string? PlaceOf(ProgramText program) =>
        program.OnHost ? null : program.RunsOn ?? Controllers.FirstOrDefault(c => c.Role == NodeRole.Controller)?.Name;
}

/// <summary>What feeds a rig.</summary>
/// <param name="Cells">Cells in a row.</param>
/// <param name="VoltsPerCell">1.2 V for a rechargeable cell, 1.5 V for a primary one.</param>
/// <param name="CapacityMAh">Charge of the pack, mAh.</param>
/// <param name="PackMaxMA">Greatest current the pack may give, mA; null when not known.</param>
/// <param name="ControllerOwnMA">Current of the controller itself, mA.</param>
/// <param name="ControllerOutputMaxMA">Greatest current the controller may supply, mA.</param>
/// <param name="ControllerOutputV">Voltage it supplies, V.</param>
/// <param name="Devices">What each device draws, by its name.</param>
public sealed record RigPower(
    double Cells,
    double VoltsPerCell,
    double CapacityMAh,
    double? PackMaxMA,
    double ControllerOwnMA,
    double ControllerOutputMaxMA,
    double ControllerOutputV,
    Sequence<PowerDevice> Devices
)
{
    /// <summary>The sum <c>power-budget</c> of this rig.</summary>
    /// <exception cref="InputProblem">When a number is out of range.</exception>
    public Answer<PowerBudgetResult> Budget() =>
        PowerBudget.Compute(
            new(Cells, VoltsPerCell, CapacityMAh, PackMaxMA, ControllerOwnMA, ControllerOutputMaxMA, ControllerOutputV, Devices.ToArray())
        );
}

/// <summary>A program as its author sees it: the script and where its numbers come from.</summary>
/// <param name="Script">The text, in the script language.</param>
/// <param name="Marks">Numbers that are not simply chosen.</param>
public sealed record ProgramText(string Script, Sequence<NumberMark> Marks)
{
    /// <summary>The controller it is on; null for the rig's first.</summary>
    public string? RunsOn { get; init; }

    /// <summary>True when it is on a host that commands the controllers over the link.</summary>
    public bool OnHost { get; init; }

    /// <summary>True when it is kept there without running.</summary>
    public bool Stored { get; init; }

    /// <summary>What sentences mean today.</summary>
    public const int MeaningNow = 2;

    /// <summary>What sentences meant when the text was last edited: 2 since giving up, ends and edges are exact, 0 before.</summary>
    public int Meaning { get; init; }

    /// <summary>Values that this place gives to the text, as in <c>program Post (number)</c>.</summary>
    [JsonConverter(typeof(GivenValuesJson))]
    public Sequence<GivenValue> Values { get; init; }
}

/// <summary>A scene as its author sees it.</summary>
/// <param name="Text">The text, in the language of scenes.</param>
public sealed record SceneText(string Text)
{
    /// <summary>The places that it makes, which goals may name.</summary>
    public Sequence<string> Places { get; init; }

    /// <summary>The things that lie or come there, one and several of them as people say it.</summary>
    public Sequence<string> Things { get; init; }
}

/// <summary>A step of a kept walk.</summary>
/// <param name="Event">What happens; null when only time passes.</param>
/// <param name="AfterMs">How long after the step before, ms.</param>
public sealed record StoredStep(string? Event, double AfterMs);

/// <summary>A walk through a program, kept as an example for a lesson.</summary>
/// <param name="Name">What it shows.</param>
/// <param name="Program">Name of the program; null when all that run are walked together.</param>
/// <param name="Steps">What happens, in order.</param>
/// <param name="Ends">Active states after the last step, as they were when it was kept.</param>
public sealed record StoredWalk(string Name, string? Program, Sequence<StoredStep> Steps, Sequence<string> Ends)
{
    /// <summary>The state or routine it begins with, alone; null for the whole program.</summary>
    public string? From { get; init; }

    /// <summary>What to ask or look out for; may be empty.</summary>
    public string Note { get; init; } = "";
}

/// <summary>
/// Where one number of a script comes from. It stays with its line: while the text of the line is unchanged it holds,
/// wherever the line moves within its state; once the line is typed anew it is gone and the number is chosen.
/// </summary>
/// <param name="Owner">Name of the state that holds the line, or empty for the lines at the head of the program.</param>
/// <param name="Line">The line's canonical text.</param>
/// <param name="Index">Which number of the line, counting from 0.</param>
/// <param name="Kind">Where it comes from.</param>
/// <param name="Source">In words.</param>
public sealed record NumberMark(string Owner, string Line, int Index, Provenance Kind, string Source);
