using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.Bodies;

/// <summary>A two-wheel drive, bound once.</summary>
internal sealed class DriveSpec
{
    public required string Name { get; init; }
    public int Rig { get; init; }
    public int Left { get; init; }
    public int Right { get; init; }

    /// <summary>Wheel diameter that is drawn, over the one that the program counts with.</summary>
    public int Wheel { get; init; }
    public double WheelKnown { get; init; }
    public int Track { get; init; }
    public double TrackKnown { get; init; }
    public int Pivot { get; init; }
    public double PivotKnown { get; init; }

    /// <summary>True where the track was found by turning: its error is not the wheel's.</summary>
    public bool TrackByTurns { get; init; }

    /// <summary>True where the track about one wheel was worked out through the wheel, and moves with it.</summary>
    public bool PivotByTurns { get; init; }

    /// <summary>True where the veer was worked out through the wheel: it goes with the square of the way.</summary>
    public bool VeerByWheel { get; init; }
    public int Veer { get; init; }

    /// <summary>Share by which one turn differs from another, SD.</summary>
    public double TurnShareSd { get; init; }

    /// <summary>Below 1, wheels of a body that is held slip and count on; else they stall.</summary>
    public int Grip { get; init; }
    public int Tremble { get; init; }
    public Corner[] Outline
    {
        get;
        init
        {
            field = value;
            if (value.Length > 0)
                (boxLeft, boxRight, boxBack, boxFront) = (
                    value.Min(c => c.RightMm),
                    value.Max(c => c.RightMm),
                    value.Min(c => c.AheadMm),
                    value.Max(c => c.AheadMm)
                );
        }
    } = [];

    /// <summary>Farthest corner from the middle of the axle, mm.</summary>
    public double Reach { get; init; }

    // How far the outline comes to each side, mm.
    public double BoxLeft => boxLeft;
    public double BoxRight => boxRight;
    public double BoxBack => boxBack;
    public double BoxFront => boxFront;
    private double boxLeft,
        boxRight,
        boxBack,
        boxFront;
    public double TopKnown { get; init; }

    /// <summary>Where its front rests, ahead of the axle, mm; 0 where it rests on its wheels alone.</summary>
    public double RestsAtMm { get; init; }

    /// <summary>What it can push with, N; −1 where nothing in the scene is heavy enough to stand against it.</summary>
    public int Pushes { get; set; } = -1;

    /// <summary>The farthest from the middle of the axle that it touches the ground, mm.</summary>
    public double ContactMm => Math.Max(TrackKnown / 2, Math.Abs(RestsAtMm));
    public required string[] Names { get; init; }

    // Where it is put down.
    public int X { get; set; } = -1;
    public int Y { get; set; } = -1;
    public int Heading { get; set; } = -1;
    public ulong Turns { get; init; }
}

/// <summary>A drive's state in a run.</summary>
internal struct DriveState
{
    public double X,
        Y,
        Heading,
        Travel,
        TurnFactor,
        Speed;

    /// <summary>Sine and cosine of its heading; set by <see cref="Face"/> whenever that changes.</summary>
    public double Sin,
        Cos;

    /// <summary>How far it can go, mm, before anything but its candidates, and before the edge, can matter to it.</summary>
    public double Clear,
        ClearOfEdge;
    public int NearThings,
        NearWalls;
    public bool Fallen,
        Touching,
        BumpAhead,
        MetAhead,
        EverMoved,
        Pivoting,
        Turning;
    public long RestSince;
    public RandomStream Turns;

    /// <summary>What it does: 0 as its wheels are told, 1 follows a line.</summary>
    public byte Leads;
    public double Base,
        Gain;
    public int FollowSense;
    public double FollowSign,
        FollowPoint;
    public int Serial,
        Program,
        Device;
    public bool Ends;

    /// <summary>Works out sine and cosine of the heading anew.</summary>
    public void Face() => (Sin, Cos) = Math.SinCos(Heading);

    /// <summary>It was put somewhere else: what is near must be looked for anew.</summary>
    public void Moved() => (Clear, ClearOfEdge) = (0, 0);
}

/// <summary>A vehicle on a rail, bound once.</summary>
internal sealed class VehicleSpec
{
    public required string Name { get; init; }
    public int Rig { get; init; }
    public int Mover { get; init; }
    public double LengthMm { get; init; }
    public int Start { get; set; } = -1;
    public int Siding { get; set; } = -1;
    public int Tremble { get; init; }

    /// <summary>The eye whose whole spot must be over a place; −1 for the middle of the vehicle.</summary>
    public int Eye { get; set; } = -1;
}

/// <summary>A vehicle's state in a run: which line it is on, and where its front is.</summary>
internal struct VehicleState
{
    public int Line;
    public double At,
        Last,
        Rolled;
    public bool EverMoved,
        Crashed;
    public long RestSince;
}

/// <summary>A part that a motor turns or moves between ends, bound once.</summary>
internal sealed class AxisSpec
{
    public required string Name { get; init; }
    public int Rig { get; init; }
    public int Mover { get; init; }
    public bool RunsOn { get; init; }

    // Ends by place among the drawn; −1 for none. Low is the smaller angle.
    public int Low { get; init; } = -1;
    public int High { get; init; } = -1;
    public int Over { get; init; } = -1;
    public PastEnd PastEnd { get; init; } = PastEnd.GoesOn;

    /// <summary>Which end a sensor tells: −1 the low one, 1 the high one, 0 none.</summary>
    public int HomeSide { get; init; }

    /// <summary>The name of the stop at each end, as its directions say it.</summary>
    public string LowName { get; init; } = "";
    public string HighName { get; init; } = "";
    public Dictionary<string, double> Positions { get; init; } = [];
    public bool Grips { get; init; }
    public bool Bears { get; init; }

    /// <summary>How far it sinks or springs back when it is let go, motor degrees; −1 for none.</summary>
    public int LetGo { get; init; } = -1;

    // Where it stands at the start: an angle that counts as 0 there, or a named position.
    public int Start { get; set; } = -1;
    public double? StartAt { get; set; }

    /// <summary>Whether the start is counted as 0.</summary>
    public bool CountsFromStart { get; set; }

    /// <summary>Usual speed for a send without one, its own unit a second.</summary>
    public double UsualSpeed { get; init; }
    public double MmPerUnit { get; init; }

    /// <summary>What its jaws press with at full power, N; −1 where it has none.</summary>
    public int GripForce { get; init; } = -1;
    public int JawOpening { get; init; } = -1;
    public double OpenAt { get; init; }
    public double ClosedAt { get; init; }

    /// <summary>The drive it rides on; −1 for none.</summary>
    public int Drive { get; set; } = -1;

    /// <summary>How far ahead of the axle of its drive its jaws or its fork end, mm; 0 where nothing of it reaches out.</summary>
    public double TipMm { get; init; }

    /// <summary>1 where larger angles are higher, −1 where it goes up backwards.</summary>
    public int UpSign { get; init; } = 1;

    /// <summary>True for a lift with a fork: it takes up what it drove under.</summary>
    public bool Forks { get; init; }

    /// <summary>Torque of its motor standing still, N mm, and how much of that a newton on it takes, N mm; −1 where nothing in the
    /// scene is heavy enough for it to notice.</summary>
    public int Torque { get; set; } = -1;
    public double NmmPerN { get; init; }
}

/// <summary>A part's state in a run.</summary>
internal struct AxisState
{
    /// <summary>The angle that its counter calls 0.</summary>
    public double Zero;
    public bool AtLow,
        AtHigh,
        PastLow,
        PastHigh,
        Broken,
        Blocked;

    /// <summary>What it holds between its jaws; −1 for nothing.</summary>
    public int Gripped;
    public double GripAt,
        Force,
        TurnedFrom;
    public bool Sinking;
    public double SinkTo;
}

/// <summary>A thing, bound once.</summary>
internal sealed class ThingSpec
{
    public required string Name { get; init; }
    public int Size { get; init; }
    public Num Depth { get; init; }
    public bool Round { get; init; }
    public bool Fixed { get; init; }
    public bool Low { get; init; }
    public bool Rolls { get; init; }
    public bool Fragile { get; init; }
    public int Surface { get; init; } = -1;
    public int X { get; init; } = -1;
    public int Y { get; init; } = -1;
    public int Crush { get; init; } = -1;
    public int Slip { get; init; } = -1;

    /// <summary>The place it lies at, made of positions; −1 for none.</summary>
    public int LiesAt { get; init; } = -1;

    /// <summary>The place of the plan whose middle it lies at; −1 for none.</summary>
    public int LiesOn { get; init; } = -1;

    /// <summary>Where it is put down at random; −1 when not.</summary>
    public int AtRandomOn { get; init; } = -1;
    public Num Apart { get; init; }

    /// <summary>The mechanism that carries it from the start; −1 for none.</summary>
    public int Carrier { get; init; } = -1;
    public int Drive { get; init; } = -1;
    public Num SeatX { get; init; }
    public Num SeatY { get; init; }

    /// <summary>Its weight, N; 0 where nobody says.</summary>
    public Num WeightN { get; init; }

    /// <summary>How high it is, mm; 0 where nobody says, and then it is as high as any beam.</summary>
    public Num HighMm { get; init; }

    /// <summary>How high a fork under it has to rise to take it up, mm; not a number where none can.</summary>
    public Num ForkedFromMm { get; init; } = new(double.NaN);

    /// <summary>Friction where it is carried: beyond that share of its weight it slides off; not a number where it never does.</summary>
    public Num Friction { get; init; } = new(double.NaN);

    /// <summary>In how many of all runs it lies there.</summary>
    public double Share { get; init; } = 1;
    public ulong Stream { get; init; }
}

/// <summary>Where a thing is.</summary>
internal enum Lies : byte
{
    /// <summary>On the ground.</summary>
    Ground,

    /// <summary>Carried or gripped.</summary>
    Carried,

    /// <summary>At a place made of positions, or in a bin.</summary>
    AtPlace,

    /// <summary>Fallen, taken away or dropped.</summary>
    Gone,

    /// <summary>On a belt.</summary>
    Belt,

    /// <summary>Not in this run.</summary>
    Absent,
}

/// <summary>A thing's state in a run.</summary>
internal struct ThingState
{
    public double X,
        Y,
        R,
        Vx,
        Vy,
        OldX,
        OldY;
    public Lies Lies;
    public int Place,
        Holder;
    public bool Crushed,
        Rested;

    /// <summary>The drive it is carried by, and where on it: to its right and ahead of its axle, mm; −1 for none.</summary>
    public int On;
    public double SeatRight,
        SeatAhead;

    /// <summary>True while it has a place in the plan: it lies on the ground, or rides on a drive.</summary>
    public readonly bool IsSeen => Lies == Lies.Ground || Lies == Lies.Carried && On >= 0;

    /// <summary>True once the speed and the turn of its drive in the step before are known, which stand in its own while it rides.
    /// </summary>
    public bool Felt;
}

/// <summary>A place, bound once.</summary>
internal sealed class PlaceSpec
{
    public required string Name { get; init; }
    public Ground.Paint? Shape { get; init; }

    /// <summary>On a rail: the marker.</summary>
    public int Marker { get; init; } = -1;

    /// <summary>The whole deck or floor.</summary>
    public bool Ground { get; init; }

    // Made of positions.
    public int Axis { get; init; } = -1;
    public double From { get; init; }
    public double To { get; init; }
    public int Other { get; init; } = -1;
    public double Beyond { get; init; }

    /// <summary>A bin of a belt.</summary>
    public bool Bin { get; init; }
    public double CentreX { get; init; }
    public double CentreY { get; init; }
    public double W { get; init; }
    public double D { get; init; }
    public double TurnedDeg { get; init; }
    public bool Disc { get; init; }
}

/// <summary>A line of a rail network, bound once.</summary>
internal sealed class RailLineSpec
{
    public required string Name { get; init; }
    public double LengthMm { get; init; }
    public bool Closed { get; init; }

    /// <summary>Where it leaves the main line, and comes back; NaN for an end stop.</summary>
    public double LeavesAt { get; init; } = double.NaN;
    public double BackAt { get; init; } = double.NaN;
    public bool Backwards { get; init; }

    /// <summary>0 straight, 1 aside, 2 sprung, 3 by a mechanism.</summary>
    public int Points { get; set; }
    public int PointsAxis { get; set; } = -1;
}

/// <summary>A marker on a line of rail.</summary>
internal sealed class MarkerSpec
{
    public required string Name { get; init; }
    public int Line { get; init; }
    public int Surface { get; init; }
    public double AtMm { get; init; }
    public int Length { get; init; }
}

/// <summary>A mark that a mechanism carries past an eye.</summary>
internal readonly record struct NotchSpec(int Axis, int Surface, double MiddleDeg, double HalfMm, int Sense);

/// <summary>A belt, bound once.</summary>
internal sealed class BeltSpec
{
    public int Axis { get; init; }
    public Num LengthMm { get; init; }

    /// <summary>Belt way in mm for one of its mover's unit.</summary>
    public double MmPerUnit { get; init; }
    public FeedSpec[] Feeds { get; set; } = [];
    public int Arm { get; set; } = -1;
    public Num ArmAtMm { get; set; }
    public (string Position, int Place)[] Sends { get; set; } = [];
    public Num SticksAtMm { get; set; } = new(double.NaN);
    public double SticksShare { get; set; }
    public Num FreeAfterMm { get; set; }
}

/// <summary>What is put on a belt.</summary>
internal sealed class FeedSpec
{
    public required string Name { get; init; }
    public int Surface { get; init; } = -1;
    public People.Amount Length { get; init; }
    public double Share { get; init; }
    public People.Amount Every { get; init; }
}

/// <summary>Something on a belt.</summary>
internal struct BeltThing
{
    public int Feed;
    public double At,
        Length;

    /// <summary>0 on the belt, 1 stuck, 2 sorted, 3 fallen off its end.</summary>
    public byte Fate;
    public int Place;
    public double StuckAt;
    public bool Tried;
}

/// <summary>A tank, bound once.</summary>
internal sealed class TankSpec
{
    public required string Name { get; init; }
    public int Litres { get; init; }
    public Num HighMm { get; init; }
    public int StartsAt { get; init; }
    public int Leaks { get; set; } = -1;
    public List<(int Axis, int Flow, Num AtPercent)> Pumps { get; } = [];
    public List<(int Axis, double Place, int Flow, bool Out)> Valves { get; } = [];
}
