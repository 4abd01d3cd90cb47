namespace Chiton.Core.Checking;

/// <summary>A row of the catalogue whose findings come of a look that finds several at once.</summary>
internal sealed class Row(
    string code,
    string part,
    Severity worst,
    string title,
    string says,
    Func<CheckInput, IEnumerable<Finding>> look,
    Func<CheckInput, string?>? cannot = null
) : Check
{
    /// <inheritdoc/>
    public override string Code => code;

    /// <inheritdoc/>
    public override string Title => title;

    /// <inheritdoc/>
    public override string Says => says;

    /// <inheritdoc/>
    public override string Part => part;

    /// <inheritdoc/>
    public override Severity Worst => worst;

    /// <inheritdoc/>
    public override string? Cannot(CheckInput input) => cannot?.Invoke(input);

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input) => look(input).Where(f => f.Code == code);
}

/// <summary>What the rig itself does to a program.</summary>
internal static class RigChecks
{
    private static Row Of(string code, string part, Severity worst, string title, string says) =>
        new(code, part, worst, title, says, i => i.OfRig);

    /// <summary>All of them.</summary>
    public static IReadOnlyList<Check> All { get; } =
    [
        Of(
            "wiring-clash",
            "rig",
            Severity.Stops,
            "Two devices at one port",
            "Two leads are plugged into one port: one of them does nothing."
        ),
        Of("wiring-kind", "rig", Severity.Stops, "The wrong port", "A lead is at a port that cannot serve its device."),
        Of(
            "wiring-missing",
            "rig",
            Severity.Stops,
            "A lead that goes nowhere",
            "The program names a device of which a lead is not plugged in."
        ),
        Of(
            "wiring-level",
            "rig",
            Severity.Stops,
            "A voltage too high",
            "A device puts out more voltage than the pin stands that receives it, or too little to be seen there."
        ),
        Of("wiring-short", "rig", Severity.Stops, "A short circuit", "Two voltages meet on one rail or pin."),
        Of("wiring-ground", "rig", Severity.Stops, "Grounds apart", "A signal goes between two boards whose grounds are not joined."),
        Of("wiring-kept", "rig", Severity.Risky, "A port that is kept", "A lead is at a port that the controller keeps for itself."),
        Of(
            "power-short",
            "rig",
            Severity.Stops,
            "Not fed right",
            "What runs together needs more current, or another voltage, than its supply gives."
        ),
        Of(
            "calibration-stale",
            "sense",
            Severity.Risky,
            "Readings that are old",
            "The readings of a sensor were taken long ago, or in other light: they may no longer hold."
        ),
        Of(
            "plain-motor",
            "program",
            Severity.Stops,
            "Degrees of a motor that counts none",
            "An angle, a way or a position is asked of a motor that takes power only and does not know its angle."
        ),
        Of(
            "past-stop",
            "move",
            Severity.Stops,
            "Driven past its stop",
            "A move is longer than the whole travel, or ends beyond a stop: it stalls there, comes apart or goes over centre."
        ),
    ];
}

/// <summary>What a rail vehicle does with its markers.</summary>
internal static class RailVehicleChecks
{
    private static string? Cannot(CheckInput i) =>
        i.Rig.Rail is null || i.Rig.Vehicle is null ? "No vehicle of this rig runs on a rail."
        : i.Motion is null ? "Nothing is known yet of how the vehicle moves."
        : null;

    /// <summary>All of them.</summary>
    public static IReadOnlyList<Check> All { get; } =
    [
        new Row(
            "zone-weak",
            "sense",
            Severity.Stops,
            "Too few readings for its zones",
            "A sentence takes fewer readings in a row than its zones need, or relies on a sensor that cannot tell them apart.",
            i => i.OfRail.Concat(i.OfRig).Concat(WeakZones.Find(i)),
            i => i.Rig.Sensors.Count > 0 && i.Calibrations.Count == 0 ? "No sensor of this copy was read yet." : null
        ),
        new Row(
            "marker-missed",
            "program",
            Severity.Risky,
            "Too fast for a marker",
            "At this speed the marker passes in fewer readings than are needed to be sure of it.",
            i => i.OfRail.Concat(MarkersPassed.Find(i)),
            i => MarkersPassed.Cannot(i) is { } none && Cannot(i) is { } why ? (i.Rig.Vehicle is null ? none : why) : null
        ),
        new Row(
            "marker-rest",
            "program",
            Severity.Risky,
            "Comes to rest beside its marker",
            "It reacts, brakes and comes to rest outside of where it must stand.",
            i => i.OfRail,
            Cannot
        ),
        new GuessUsed(),
    ];
}
