using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>One thing that a sentence waits for of a sensor, however it is spelled.</summary>
/// <param name="Sensor">The sensor.</param>
/// <param name="Zone">The zone waited for; null where a reading is compared.</param>
/// <param name="Low">The least reading that it means; −∞ where there is none.</param>
/// <param name="High">The greatest; +∞ where there is none.</param>
/// <param name="Readings">Readings in a row that it takes.</param>
internal sealed record Waited(Sensor Sensor, string? Zone, double Low, double High, int Readings)
{
    /// <summary>True where it means what is near: readings up to a limit and none beyond it.</summary>
    public bool IsNear => High < double.PositiveInfinity;

    /// <summary>Everything of sensors that a sentence waits for; what it waits to be over is not told.</summary>
    public static IEnumerable<Waited> Of(CheckInput input, TransitionNode sentence) =>
        sentence.Trigger switch
        {
            ZoneTriggerNode { Relation: not ZoneRelation.Leaves } z => InZone(input, z.Sensor, z.Zone, z.Needed),
            ConditionTriggerNode c => In(input, c.Condition, c.Readings is { } n ? (int)(new LiteralNode(n, "").BaseValue) : 1),
            _ => [],
        };

    /// <summary>The same of a condition.</summary>
    public static IEnumerable<Waited> In(CheckInput input, ExprNode condition, int readings = 1)
    {
        switch (condition)
        {
            case BinaryNode { Operator: Operator.And or Operator.Or } both:
                return [.. In(input, both.Left, readings), .. In(input, both.Right, readings)];
            case ZoneIsNode { Not: false } z:
                return InZone(input, z.Sensor, z.Zone, readings);
            case BinaryNode
            {
                Operator: Operator.Equal,
                Left: PropertyNode { Kind: PropertyKind.Zone } of,
                Right: ZoneNode { Zone: { } zone }
            }:
                return InZone(input, of.Of, zone, readings);
            case BinaryNode { Left: ReadingNode r } b:
                return Compared(input, r.Sensor, b.Operator, b.Right, readings);
            case BinaryNode { Right: ReadingNode r } b:
                return Compared(
                    input,
                    r.Sensor,
                    b.Operator switch
                    {
                        Operator.Less => Operator.Greater,
                        Operator.LessOrEqual => Operator.GreaterOrEqual,
                        Operator.Greater => Operator.Less,
                        Operator.GreaterOrEqual => Operator.LessOrEqual,
                        var same => same,
                    },
                    b.Left,
                    readings
                );
            default:
                return [];
        }
    }

    private static IEnumerable<Waited> InZone(CheckInput input, string name, string zone, int readings)
    {
        if (input.Rig.Sensors.FirstOrDefault(s => s.Name == name) is not { } sensor)
            return [];
        var band = sensor.Bands.FirstOrDefault(b => b.Zone == zone);
        // The farthest band has no end that anything could pass.
        var last = band is not null && sensor.Bands.All(b => b.ToMm <= band.ToMm) && sensor.Bands.Count > 1;
        return
        [
            new(
                sensor,
                zone,
                band?.FromMm ?? double.NegativeInfinity,
                band is null || last ? double.PositiveInfinity : band.ToMm,
                readings
            ),
        ];
    }

    private static IEnumerable<Waited> Compared(CheckInput input, string name, Operator how, ExprNode with, int readings)
    {
        if (input.Rig.Sensors.FirstOrDefault(s => s.Name == name) is not { } sensor)
            yield break;
        // Of several values it may be held against, each counts.
        foreach (var value in input.Walk.Values(with).Select(v => v.Value).Distinct())
            if (how is Operator.Less or Operator.LessOrEqual)
                yield return new(sensor, null, double.NegativeInfinity, value, readings);
            else if (how is Operator.Greater or Operator.GreaterOrEqual)
                yield return new(sensor, null, value, double.PositiveInfinity, readings);
    }

    /// <summary>What it is, as it is told.</summary>
    public string Say =>
        Zone
        ?? (
            IsNear
                ? $"below {Quantities.Figures.Show(High)} {Sensor.Facts.Unit}"
                : $"above {Quantities.Figures.Show(Low)} {Sensor.Facts.Unit}"
        ).TrimEnd();
}
