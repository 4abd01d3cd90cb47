namespace Chiton.Core.Rigs;

/// <summary>How a mechanism goes over the ground.</summary>
public enum Going
{
    /// <summary>It stays where it is.</summary>
    Nowhere,

    /// <summary>Along a rail, forward and back.</summary>
    OnRail,

    /// <summary>Where its two wheels steer it.</summary>
    Steered,
}

/// <summary>What the moves of a mechanism's part are measured in.</summary>
public enum PartMoves
{
    /// <summary>It turns: part degrees.</summary>
    Turns,

    /// <summary>It goes along a line: mm.</summary>
    Slides,
}

/// <summary>What all mechanisms of a kind have in common. A new kind is a line of the table; forgetting it fails a test.</summary>
/// <param name="Words">What it is called.</param>
/// <param name="Going">How it goes over the ground.</param>
/// <param name="Moves">What the moves of its part are measured in.</param>
/// <param name="Grips">True when it closes on things, so that what it holds ends its moves.</param>
/// <param name="Bears">True when weight pulls at it, so that it sinks or springs back when let go.</param>
/// <param name="RunsOn">True when it runs on and carries things along it.</param>
/// <param name="Swings">True when its part can swing in before an eye, or out of its sight.</param>
public sealed record MechanismFacts(
    string Words,
    Going Going = Going.Nowhere,
    PartMoves Moves = PartMoves.Turns,
    bool Grips = false,
    bool Bears = false,
    bool Swings = false,
    bool RunsOn = false
)
{
    private static readonly Dictionary<MechanismKind, MechanismFacts> All = new()
    {
        [MechanismKind.TwoWheelDrive] = new("two-wheel drive", Going.Steered),
        [MechanismKind.RailVehicle] = new("rail vehicle", Going.OnRail),
        [MechanismKind.Lift] = new("lift", Moves: PartMoves.Slides, Bears: true),
        [MechanismKind.Gripper] = new("gripper", Grips: true, Swings: true),
        [MechanismKind.ArmJoint] = new("arm joint", Bears: true, Swings: true),
        [MechanismKind.Lid] = new("lid, flap or gate", Swings: true),
        [MechanismKind.Crank] = new("crank"),
        [MechanismKind.Belt] = new("belt or drum", Moves: PartMoves.Slides, RunsOn: true),
    };

    /// <summary>The facts of a kind.</summary>
    /// <exception cref="KeyNotFoundException">When the kind has no line in the table.</exception>
    public static MechanismFacts Of(MechanismKind kind) => All[kind];

    /// <summary>How many motors it takes: exactly two where they steer it, else at least one.</summary>
    public int LeastMotors => Going == Going.Steered ? 2 : 1;

    /// <summary>What becomes of it when its program ends or its controller stops.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="motor">What moves it; null when nothing does.</param>
    public string AtEnd(string name, ActuatorKind? motor) =>
        Going != Going.Nowhere ? $"When its program ends, {name} brakes, and is let go after 1 s."
        : motor == ActuatorKind.PlainMotor ? $"When its program ends, {name} stops; a plain motor cannot hold it in its place."
        : Bears
            ? $"When its program ends, {name} holds its place while the controller is on, "
                + "and sinks or springs back when it is switched off."
        : $"When its program ends, {name} holds its place while the controller is on.";

    /// <summary>The most motors it takes.</summary>
    public int MostMotors => Going == Going.Steered ? 2 : 8;
}
