using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.Senses;

/// <summary>How a sensor comes to what it reads in a scene.</summary>
internal enum SenseWay : byte
{
    /// <summary>An eye over the ground of a plan.</summary>
    Ground,

    /// <summary>An eye over a rail.</summary>
    Rail,

    /// <summary>An eye that a mechanism carries marks past.</summary>
    Notch,

    /// <summary>An eye over a belt.</summary>
    Belt,

    /// <summary>One that looks at nothing here: it reads one zone.</summary>
    Nothing,

    /// <summary>A distance ahead.</summary>
    Range,

    /// <summary>A bumper of a drive or a vehicle.</summary>
    Bumper,

    /// <summary>A switch at the end of a mechanism.</summary>
    End,

    /// <summary>A button that people press.</summary>
    Button,

    /// <summary>A light gate over a belt.</summary>
    Gate,

    /// <summary>The force of jaws.</summary>
    Force,

    /// <summary>A probe in a tank.</summary>
    Probe,

    /// <summary>The angle of a motor.</summary>
    Turns,

    /// <summary>Clicks of a home-made encoder.</summary>
    Clicks,

    /// <summary>How loud it is.</summary>
    Sound,

    /// <summary>An eye that looks to a side of its drive: what stands there.</summary>
    Faced,

    /// <summary>A switch or gate in jaws or on a fork: what they hold.</summary>
    Load,
}

/// <summary>A sensor, bound once.</summary>
internal sealed class SenseSpec
{
    public required string Name { get; init; }
    public int Rig { get; init; }
    public SensorKind Kind { get; init; }
    public SenseWay Way { get; set; }
    public long PeriodMicros { get; init; }
    public long DelayMicros { get; init; }
    public double Resolution { get; init; }
    public double Low { get; init; }
    public double High { get; init; }
    public bool IsSwitch { get; init; }
    public bool IsColour { get; init; }

    /// <summary>What it sits on: a drive, a vehicle, a mechanism; −1 for nothing that moves.</summary>
    public int Drive { get; set; } = -1;
    public int Vehicle { get; set; } = -1;
    public int Axis { get; set; } = -1;
    public int Ahead { get; set; } = -1;
    public int Right { get; set; } = -1;
    public int Spot { get; set; } = -1;
    public double HeightMm { get; set; }
    public double FacingRad { get; set; }
    public double BeamRad { get; set; }
    public double BlindMm { get; set; }
    public double ReachMm { get; set; } = 4000;
    public double? SilentReading { get; set; }
    public bool Echo { get; set; }
    public double OwnBodyMm { get; set; } = double.PositiveInfinity;

    /// <summary>By surface of the scene: place of its mean among the drawn, −1 where it knows nothing of it.</summary>
    public int[] Means { get; set; } = [];

    /// <summary>By surface: SD of one reading.</summary>
    public double[] Sds { get; set; } = [];

    /// <summary>By surface where the mean of each channel is drawn, and its SD, for a colour sensor.</summary>
    public int[][] Channels { get; set; } = [];
    public double[][] ChannelSds { get; set; } = [];

    /// <summary>By class of a colour sensor: where its readings lie; a reading is of the nearest class, or of none.</summary>
    public double[][] ClassMeans { get; set; } = [];

    /// <summary>Inverse of the covariance that the classes share, row by row.</summary>
    public double[] Inverse { get; set; } = [];
    public double Reject { get; set; } = double.PositiveInfinity;
    public int[] ClassZones { get; set; } = [];

    /// <summary>For a sensor of colour words: by surface how often each word but the most frequent was seen, added up; which word that one
    /// is, and where its share is drawn; by word its zone, −1 for none.</summary>
    public double[]?[] Words { get; set; } = [];
    public int[] WordMain { get; set; } = [];
    public int[] WordShares { get; set; } = [];
    public int[] WordZones { get; set; } = [];

    /// <summary>True for a contact that flickers after it closed or opened.</summary>
    public bool Bounces { get; init; }

    /// <summary>Correlation of one reading with the next.</summary>
    public double Lag1 { get; set; }

    /// <summary>The surface, or zone, it reads where nothing is before it; −1 for none.</summary>
    public int NothingThere { get; set; } = -1;
    public string[] Zones { get; init; } = [];

    /// <summary>By zone the surface of that name; −1 for none.</summary>
    public int[] ZoneSurface { get; set; } = [];

    /// <summary>SD of a distance: at none and for each mm.</summary>
    public double RangeSd { get; set; } = 2;
    public double RangeSdPerMm { get; set; }

    /// <summary>Where it is drawn how many times wider than it was found that is; −1 where nothing was found.</summary>
    public int RangeSpread { get; set; } = -1;

    /// <summary>How often nothing is heard, by distance.</summary>
    public (double Mm, double Share)[] SilentAt { get; set; } = [];

    // A switch at an end.
    public int SwitchLow { get; set; } = -1;
    public int SwitchHigh { get; set; } = -1;

    /// <summary>Of a sensor that hears: the zone of what is loud; −1 where nothing was recorded.</summary>
    public int Loudest { get; set; } = -1;

    public int SwitchBelow { get; set; } = -1;
    public int SwitchAbove { get; set; } = -1;
    public double ClicksPerUnit { get; set; }
    public ulong Noise { get; init; }

    /// <summary>By program: its place there, −1 where the program does not know it, and its zones there.</summary>
    public int[] In { get; set; } = [];
    public int[][] ZoneIn { get; set; } = [];
}

/// <summary>A sensor's state in a run.</summary>
internal struct SenseState
{
    public long Next;
    public double Reading,
        R,
        G,
        B,
        Drift;
    public int Zone,
        Bounce;
    public bool Down,
        Closed,
        EverRead,
        Silent;
    public RandomStream Noise;

    // Readings on their way: at most so many.
    public long Due0,
        Due1;
    public double Value0,
        Value1;
    public int Waiting;
    public long LastRead;
}
