using Chiton.Core.Rigs;

namespace Chiton.Core.Programs;

/// <summary>What a program can command.</summary>
public enum ActuatorKind
{
    /// <summary>Takes power in % only.</summary>
    PlainMotor,
    /// <summary>On or off.</summary>
    Lamp,
    /// <summary>Sounds tones.</summary>
    Sounder,
}

/// <summary>A sensor and its zone names.</summary>
public sealed record SensorWord(string Name, IReadOnlyList<string> Zones);

/// <summary>An actuator.</summary>
public sealed record ActuatorWord(string Name, ActuatorKind Kind);

/// <summary>The names a rig gives to a program.</summary>
/// <param name="Sensors">Sensors in rig order.</param>
/// <param name="Actuators">Actuators in rig order.</param>
/// <param name="Places">Places that goals may name.</param>
public sealed record Vocabulary(IReadOnlyList<SensorWord> Sensors, IReadOnlyList<ActuatorWord> Actuators, IReadOnlyList<string> Places)
{
    /// <summary>The names of a rig.</summary>
    public static Vocabulary Of(RigDesign rig) => new(
        [.. rig.Eyes.Select(e => new SensorWord(e.Name, e.Zones.ToArray()))],
        [.. rig.Devices.Select(d => d switch
        {
            PlainMotor => new ActuatorWord(d.Name, ActuatorKind.PlainMotor),
            Lamp => new ActuatorWord(d.Name, ActuatorKind.Lamp),
            Sounder => new ActuatorWord(d.Name, ActuatorKind.Sounder),
            _ => null,
        }).OfType<ActuatorWord>()],
        [.. rig.Rail.Markers.Select(m => m.Name)]);

    /// <summary>Names of the actuators of one kind.</summary>
    public IEnumerable<string> Named(ActuatorKind kind) => Actuators.Where(a => a.Kind == kind).Select(a => a.Name);
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
            if (edits <= allowed && edits < Math.Min(name.Length, typed.Length) && (best is null || edits < best.Value.Edits)) best = (name, edits);
        }
        return best;
    }

    // Edit distance with swapped neighbours counted once (optimal string alignment).
    private static int Distance(string a, string b)
    {
        var d = new int[a.Length + 1, b.Length + 1];
        for (var i = 0; i <= a.Length; i++) d[i, 0] = i;
        for (var j = 0; j <= b.Length; j++) d[0, j] = j;
        for (var i = 1; i <= a.Length; i++)
            for (var j = 1; j <= b.Length; j++)
            {
                var change = a[i - 1] == b[j - 1] ? 0 : 1;
                d[i, j] = Math.Min(Math.Min(d[i - 1, j] + 1, d[i, j - 1] + 1), d[i - 1, j - 1] + change);
                if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1]) d[i, j] = Math.Min(d[i, j], d[i - 2, j - 2] + 1);
            }
        return d[a.Length, b.Length];
    }
}
