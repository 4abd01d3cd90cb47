namespace Chiton.Core.Rigs;

/// <summary>What comes down the lead of a sensor.</summary>
public enum SensorSignal
{
    /// <summary>Nothing: it is built into something else.</summary>
    None,

    /// <summary>A voltage that stands for a number.</summary>
    Level,

    /// <summary>On or off.</summary>
    Switch,

    /// <summary>Several numbers, as messages.</summary>
    Bus,

    /// <summary>A distance: a level, or an echo that is asked for.</summary>
    Range,
}

/// <summary>What the simulated controller can hold a sensor before.</summary>
public enum BenchShelf
{
    /// <summary>Nothing.</summary>
    None,

    /// <summary>Surfaces under its own lamp.</summary>
    Surfaces,

    /// <summary>Lights of a room.</summary>
    Room,

    /// <summary>Coloured surfaces.</summary>
    Colours,

    /// <summary>Things at a distance.</summary>
    Distances,

    /// <summary>Hands and weights.</summary>
    Forces,

    /// <summary>Water and soil.</summary>
    Levels,

    /// <summary>Sounds.</summary>
    Sounds,

    /// <summary>Fingers that press.</summary>
    Presses,
}

/// <summary>What the amount of a thing means, for people.</summary>
/// <param name="Label">What is asked.</param>
/// <param name="Unit">Its unit.</param>
/// <param name="Min">Least amount.</param>
/// <param name="Max">Greatest amount.</param>
/// <param name="Usual">An amount to begin with.</param>
public sealed record BenchAmount(string Label, string Unit, double Min, double Max, double Usual);

/// <summary>What all sensors of a kind have in common. A new kind is a line of the table; forgetting it fails a test.</summary>
/// <param name="Words">What it is called.</param>
/// <param name="Unit">Unit of a reading.</param>
/// <param name="From">Least reading.</param>
/// <param name="To">Greatest reading.</param>
/// <param name="View">How its readings are looked at: scalar, bands, colours, names, switch or none.</param>
/// <param name="SamplePeriodMs">A usual time between readings, ms.</param>
/// <param name="Resolution">A usual smallest difference.</param>
/// <param name="Signal">What comes down its lead.</param>
/// <param name="Touch">What is done to it to see its reading change.</param>
/// <param name="Shelf">What the simulated controller can hold it before.</param>
public sealed record SensorFacts(
    string Words,
    string Unit,
    double From,
    double To,
    string View,
    double SamplePeriodMs,
    double Resolution,
    SensorSignal Signal,
    string Touch,
    BenchShelf Shelf
)
{
    /// <summary>True when the light of the room, or its own on a surface, is what it reads.</summary>
    public bool SeesLight => Shelf is BenchShelf.Surfaces or BenchShelf.Room;

    /// <summary>Numbers a reading: 3 for red, green and blue.</summary>
    public int Width { get; init; } = 1;

    /// <summary>What the amount of the things before it means; null where things have none.</summary>
    public BenchAmount? Amount { get; init; }

    private const string Cover = "covered and uncovered";
    private const string Press = "pressed and let go";
    private const string Recolour = "held over something of another colour";

    private static readonly Dictionary<SensorKind, SensorFacts> All = new()
    {
        [SensorKind.ReflectedLight] = new("reflected light", "%", 0, 100, "scalar", 10, 1, SensorSignal.Level, Cover, BenchShelf.Surfaces),
        [SensorKind.AmbientLight] = new("ambient light", "%", 0, 100, "scalar", 10, 1, SensorSignal.Level, Cover, BenchShelf.Room),
        [SensorKind.Colour] = new("colour, red green blue", "", 0, 255, "colours", 20, 1, SensorSignal.Bus, Recolour, BenchShelf.Colours)
        {
            Width = 3,
        },
        [SensorKind.ColourName] = new("colour, by name", "", 0, 9, "names", 20, 1, SensorSignal.Bus, Recolour, BenchShelf.Colours),
        [SensorKind.Distance] = new(
            "distance",
            "mm",
            0,
            4000,
            "bands",
            30,
            1,
            SensorSignal.Range,
            "approached with a hand",
            BenchShelf.Distances
        )
        {
            Amount = new("at", "mm", 1, 4000, 200),
        },
        [SensorKind.Touch] = new("touch", "", 0, 1, "switch", 10, 1, SensorSignal.Switch, Press, BenchShelf.Presses),
        [SensorKind.Force] = new("force", "N", 0, 20, "scalar", 10, 0.1, SensorSignal.Level, Press, BenchShelf.Forces)
        {
            Amount = new("with", "N", 0, 20, 4),
        },
        [SensorKind.Probe] = new(
            "level or soil probe",
            "",
            0,
            1023,
            "scalar",
            100,
            1,
            SensorSignal.Level,
            "dipped and taken out",
            BenchShelf.Levels
        )
        {
            Amount = new("at", "% of its length", 0, 100, 50),
        },
        [SensorKind.Encoder] = new(
            "turns, built in",
            "motor deg",
            -1e6,
            1e6,
            "none",
            10,
            1,
            SensorSignal.None,
            "turned by hand",
            BenchShelf.None
        ),
        [SensorKind.ClickEncoder] = new("clicks of a switch", "", 0, 1, "switch", 5, 1, SensorSignal.Switch, Press, BenchShelf.Presses),
        [SensorKind.Button] = new("button on the controller", "", 0, 1, "switch", 10, 1, SensorSignal.Switch, Press, BenchShelf.Presses),
        [SensorKind.Sound] = new("how loud it is", "%", 0, 100, "scalar", 20, 1, SensorSignal.Level, "clapped at", BenchShelf.Sounds),
        [SensorKind.LightGate] = new("light gate", "", 0, 1, "switch", 5, 1, SensorSignal.Switch, Cover, BenchShelf.Presses),
    };

    /// <summary>The facts of a kind.</summary>
    public static SensorFacts Of(SensorKind kind) => All[kind];
}
