using Chiton.Core.Simulation.Bodies;

namespace Chiton.Core.Simulation;

public sealed partial class Bench
{
    /// <summary>Where the first eye of a vehicle looks, mm along its line.</summary>
    internal double Spot(int v)
    {
        var spec = plan.Vehicles[v];
        ref readonly var s = ref vehicles[v];
        var spot = s.At + (spec.Eye >= 0 ? drawn[plan.Senses[spec.Eye].Ahead] : 0);
        var line = layout.Lines.Length > 0 ? layout.Lines[s.Line] : null;
        return line is { Closed: true } ? spot - Math.Floor(spot / line.LengthMm) * line.LengthMm : spot;
    }

    /// <summary>The marker that a spot sticks out of least: by how much, mm, and on which side of its middle it lies.</summary>
    internal (string? Name, double Excess, double Side) Marker(int v, double spot)
    {
        var radius = plan.Vehicles[v].Eye is >= 0 and var e ? drawn[plan.Senses[e].Spot] / 2 : 0;
        var line = layout.Lines[vehicles[v].Line];
        (string? name, double excess, double side) = (null, double.MaxValue, 0);
        foreach (var m in layout.Markers)
        {
            if (m.Line != vehicles[v].Line)
                continue;
            var half = drawn[m.Length] / 2;
            var d = spot - m.AtMm - half;
            if (line.Closed)
                d -= Math.Round(d / line.LengthMm) * line.LengthMm;
            var outside = Math.Abs(d) - half + radius;
            if (outside < excess)
                (name, excess, side) = (m.Name, outside, d);
        }
        return (name, excess, side);
    }

    /// <summary>True once a rig is out of a heat: it has fallen, has met another on its rail, or has lost what it carried.</summary>
    /// <param name="rig">The rig: 0 for the host, then the guests.</param>
    internal bool IsOut(int rig)
    {
        for (var d = 0; d < drives.Length; d++)
            if (plan.Drives[d].Rig == rig && drives[d].Fallen)
                return true;
        for (var v = 0; v < vehicles.Length; v++)
            if (plan.Vehicles[v].Rig == rig && vehicles[v].Crashed)
                return true;
        for (var t = 0; t < things.Length; t++)
            if (
                plan.Things[t].Drive is >= 0 and var carrier
                && plan.Drives[carrier].Rig == rig
                && things[t].Lies is not (Lies.Carried or Lies.Absent)
            )
                return true;
        return false;
    }

    /// <summary>Where things stand, in words that group alike, and by how many mm.</summary>
    internal (string Text, double? DetailMm) Ended()
    {
        if (plan.Vehicles.Length > 0 && layout.Lines.Length > 0)
        {
            if (movers[plan.Vehicles[0].Mover].Speed != 0)
                return ("still moving", null);
            var (name, excess, side) = Marker(0, Spot(0));
            return name is null ? ("standing", null)
                : excess <= 0 ? ($"standing over {name}", null)
                : (side > 0 ? $"standing past {name}" : $"standing short of {name}", excess);
        }
        for (var d = 0; d < drives.Length; d++)
            if (drives[d].Fallen && plan.Drives[d].Rig == 0)
                return ("fallen off the deck", null);
        var said = "";
        for (var p = 0; p < plan.Programs.Count; p++)
            if (plan.RigOf[p] == 0 && network.Machines[p].Configuration.FirstOrDefault() is { } at)
            {
                var state = at[(at.LastIndexOf('.') + 1)..];
                said +=
                    said == ""
                        ? plan.Programs.Count > 1
                            ? $"{plan.Programs[p].Name} in {state}"
                            : $"the program is in {state}"
                        : $", {plan.Programs[p].Name} in {state}";
            }
        return (said == "" ? "the programs have ended" : said, null);
    }
}
