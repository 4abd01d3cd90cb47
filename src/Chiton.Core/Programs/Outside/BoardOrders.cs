using System.Globalization;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Outside;

/// <summary>What a device is told, as the language says it. Boards know them by their places here.</summary>
internal enum BoardVerb : byte
{
    Run,
    Drive,
    Turn,
    Steer,
    Follow,
    Go,
    Home,
    Set,
    Step,
    Stop,
    Brake,
    Coast,
    Hold,
    On,
    Off,
    Blink,
    Tone,
    Beep,
    Play,
    Show,
    Zero,
}

/// <summary>What a sentence tells a device. Numbers that change from time to time come with the order; here is what never does.</summary>
/// <param name="Verb">What it is told.</param>
internal sealed record BoardOrder(BoardVerb Verb)
{
    /// <summary>1 or −1: which way.</summary>
    public int Sign { get; init; } = 1;

    /// <summary>Unit of its value, by its place in <see cref="BoardOrders.Units"/>.</summary>
    public int Unit { get; init; }

    /// <summary>Unit of its amount.</summary>
    public int AmountUnit { get; init; }

    /// <summary>Its value where the sentence alone says it; null where the machine works it out; NaN where there is none.</summary>
    public double? Value { get; init; }

    /// <summary>Its amount, likewise.</summary>
    public double? Amount { get; init; }

    /// <summary>What else is said, as a colour or a text.</summary>
    public string Words { get; init; } = "";
}

/// <summary>Works out what sentences tell devices.</summary>
/// <param name="program">The program.</param>
/// <param name="rig">The rig.</param>
/// <param name="positions">Angles that were recorded, by mechanism or motor and position.</param>
internal sealed class BoardOrders(
    ProgramNode program,
    RigDesign rig,
    IReadOnlyDictionary<string, IReadOnlyDictionary<string, IReadOnlyList<double>>> positions
)
{
    /// <summary>Units, in the order in which boards number them.</summary>
    public static IReadOnlyList<string> Units { get; } =
    ["", "%", "mm", "mm/s", "s", "Hz", "deg", "deg/s", "motor deg", "wheel deg", "robot deg", "steps"];

    /// <summary>Names of the orders as boards and lines say them.</summary>
    public static IReadOnlyList<string> Verbs { get; } = [.. Enum.GetNames<BoardVerb>().Select(v => v.ToLowerInvariant())];

    private static int UnitOf(Dimension dimension) =>
        dimension switch
        {
            Dimension.Percent => 1,
            Dimension.Length => 2,
            Dimension.Speed => 3,
            Dimension.Time => 4,
            Dimension.Frequency => 5,
            Dimension.Angle => 6,
            Dimension.AngularSpeed => 7,
            Dimension.MotorAngle => 8,
            Dimension.WheelAngle => 9,
            Dimension.RobotAngle => 10,
            _ => 0,
        };

    private int UnitOf(ExprNode? node, Dimension otherwise = Dimension.None) =>
        node is null ? 0
        : Measures.Of(node, program) is not Dimension.None and var d ? UnitOf(d)
        : UnitOf(otherwise);

    private static double? Constant(ExprNode? node) => node is null ? double.NaN : Analysis.Constant(node) ?? double.NaN;

    private string Outside(string name) => program.OwnNames.FirstOrDefault(o => o.Name == name)?.Outside ?? name;

    /// <summary>The angle of a position on the copy, its mean where it was recorded often; null where nobody found it.</summary>
    /// <param name="device">Mechanism or motor, as the program names it.</param>
    /// <param name="position">The position.</param>
    public double? Angle(string device, string position)
    {
        var name = Outside(device);
        var mechanism = rig.Mechanisms.FirstOrDefault(m => m.Name == name || m.Motors.Contains(name));
        foreach (var of in new[] { name, mechanism?.Name }.OfType<string>().Concat(mechanism?.Motors ?? []))
            if (positions.TryGetValue(of, out var found) && found.TryGetValue(position, out var angles) && angles.Count > 0)
                return Math.Round(angles.Average(), 1);
        return null;
    }

    private int Sign(string motor, string? direction)
    {
        if (direction is null or "forward")
            return 1;
        var name = Outside(motor);
        var mechanism = rig.Mechanisms.FirstOrDefault(m => m.Name == name || m.Motors.Contains(name));
        return mechanism?.Directions.FirstOrDefault(d => d.Name == direction) is { Forward: true } ? 1 : -1;
    }

    private static string Joined(params string?[] words) => string.Join(' ', words.Where(w => !string.IsNullOrEmpty(w)));

    private static string? Seconds(ExprNode? node) =>
        node is null || Analysis.Constant(node) is not { } s ? null : s.ToString("0.######", CultureInfo.InvariantCulture) + " s";

    /// <summary>What an activity tells its device; null where it tells none.</summary>
    public BoardOrder? Of(ScriptActivity a)
    {
        switch (a.Node)
        {
            case RunNode r:
                return new(BoardVerb.Run)
                {
                    Sign = Sign(r.Motor, r.Direction),
                    Unit = UnitOf(r.Speed, Dimension.Percent),
                    Amount = r.Amount is null ? double.NaN : null,
                    AmountUnit = UnitOf(r.Amount, Dimension.MotorAngle),
                };
            case DriveNode d:
                return new(BoardVerb.Drive)
                {
                    Sign = d.Back ? -1 : 1,
                    Unit = UnitOf(d.Speed, Dimension.Percent),
                    Amount = d.Distance is null ? double.NaN : null,
                    AmountUnit = UnitOf(d.Distance, Dimension.Length),
                };
            case TurnRobotNode t:
                return new(BoardVerb.Turn)
                {
                    Unit = UnitOf(t.Speed, Dimension.Percent),
                    Amount = t.Angle is null ? double.NaN : null,
                    AmountUnit = UnitOf(t.Angle, Dimension.RobotAngle),
                    Words = Joined(t.Left ? "left" : "right", t.Pivoting == true ? "pivoting" : "spinning"),
                };
            case SteerNode s:
                return new(BoardVerb.Steer)
                {
                    Unit = UnitOf(s.Left, Dimension.Percent),
                    AmountUnit = UnitOf(s.Right, Dimension.Percent),
                    Words =
                        s.Distance is not null && Analysis.Constant(s.Distance) is { } far
                            ? $"for {far.ToString("0.######", CultureInfo.InvariantCulture)} {Units[UnitOf(s.Distance, Dimension.Length)]}"
                            : "",
                };
            case SteerByNode:
                return new(BoardVerb.Steer) { Unit = 1, AmountUnit = 1 };
            case FollowNode f:
                return new(BoardVerb.Follow)
                {
                    Unit = UnitOf(f.Speed, Dimension.Percent),
                    Words = Joined(f.Eye, f.LeftEdge == true ? "left" : "right", f.Zone),
                };
            case SendNode { Position: null } s:
                return new(BoardVerb.Home)
                {
                    Value = Constant(s.Speed),
                    Unit = UnitOf(s.Speed, Dimension.Percent),
                    Amount = double.NaN,
                };
            case SendNode s:
                return new(BoardVerb.Go)
                {
                    Value = Constant(s.Speed),
                    Unit = UnitOf(s.Speed, Dimension.Percent),
                    Amount = Angle(s.Device, s.Position!) ?? double.NaN,
                    AmountUnit = UnitOf(Dimension.Angle),
                    Words = Joined(
                        s.Position,
                        s.Way switch
                        {
                            TurnWay.Shortest => "shortest",
                            TurnWay.Clockwise => "clockwise",
                            TurnWay.CounterClockwise => "counter-clockwise",
                            _ => null,
                        }
                    ),
                };
            // The angle comes as the machine's first number.
            case SetServoNode { Position: null }:
                return new(BoardVerb.Set) { Unit = UnitOf(Dimension.Angle), Amount = double.NaN };
            case SetServoNode s:
                return new(BoardVerb.Set)
                {
                    Value = Angle(s.Device, s.Position!) ?? double.NaN,
                    Unit = UnitOf(Dimension.Angle),
                    Amount = double.NaN,
                    Words = s.Position!,
                };
            case StepNode:
                return new(BoardVerb.Step) { Unit = Units.Count - 1, AmountUnit = UnitOf(Dimension.Frequency) };
            case StopNode s:
                return new(
                    s.Mode switch
                    {
                        StopMode.Brake => BoardVerb.Brake,
                        StopMode.Coast => BoardVerb.Coast,
                        StopMode.Hold => BoardVerb.Hold,
                        _ => BoardVerb.Stop,
                    }
                )
                {
                    Value = double.NaN,
                    Amount = double.NaN,
                };
            case LampNode l:
                return new(l.On ? BoardVerb.On : BoardVerb.Off)
                {
                    Value = double.NaN,
                    Amount = double.NaN,
                    Words = l.Colour ?? "",
                };
            case EyeLampNode l:
                return new(l.On ? BoardVerb.On : BoardVerb.Off) { Value = double.NaN, Amount = double.NaN };
            case BlinkNode:
                return new(BoardVerb.Blink) { Unit = UnitOf(Dimension.Time), AmountUnit = UnitOf(Dimension.Time) };
            case ToneNode:
                return new(BoardVerb.Tone) { Unit = UnitOf(Dimension.Frequency), Amount = double.NaN };
            case BeepNode b:
                return new(BoardVerb.Beep)
                {
                    Unit = UnitOf(Dimension.Frequency),
                    Amount = double.NaN,
                    Words = Joined(Seconds(b.On), Seconds(b.Off)),
                };
            case PlayNode p:
                return new(BoardVerb.Play)
                {
                    Value = double.NaN,
                    Amount = double.NaN,
                    Words = p.Text,
                };
            case ShowNode s:
                return new(BoardVerb.Show)
                {
                    Value = double.NaN,
                    Amount = double.NaN,
                    Words = s.Text,
                };
            case ShowValueNode:
                return new(BoardVerb.Show) { Amount = double.NaN };
            case ZeroNode:
                return new(BoardVerb.Zero) { Value = double.NaN, Amount = double.NaN };
            default:
                return null;
        }
    }
}
