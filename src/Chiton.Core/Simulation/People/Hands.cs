using System.Globalization;
using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.People;

/// <summary>How long something that is done at a playing bench lasts.</summary>
public enum HandLasts
{
    /// <summary>As long as it is held: a finger on a button.</summary>
    Held,

    /// <summary>From one press to the next: a lead that is out.</summary>
    UntilAgain,

    /// <summary>A moment: a thing is taken away.</summary>
    Moment,
}

/// <summary>A number that can be chosen with something that is done.</summary>
/// <param name="Unit">Its unit, in words of the language.</param>
/// <param name="Usual">What it is unless said.</param>
/// <param name="From">Smallest.</param>
/// <param name="To">Largest.</param>
/// <param name="Digits">Decimals it is kept with, so that the scene says exactly what was done.</param>
public sealed record HandAmount(string Unit, double Usual, double From, double To, int Digits);

/// <summary>Something that a person can do to a bench while it plays: a timed line of the scene that waits for its time.</summary>
/// <param name="About">What it is done to, to group by.</param>
/// <param name="Words">What its button says.</param>
/// <param name="Sentence">The line of the scene without its time; {0} stands for the amount.</param>
/// <param name="Lasts">How long.</param>
/// <param name="Amount">A number that goes with it; null for none.</param>
/// <param name="Key">The key that does it; null beyond the alphabet.</param>
/// <param name="Why">Why it cannot be done on this copy; null when it can.</param>
public sealed record Hand(string About, string Words, string Sentence, HandLasts Lasts, HandAmount? Amount, string? Key, string? Why)
{
    private const string HoldsAfter = "in 0.2 s";

    /// <summary>The line without its time.</summary>
    /// <param name="amount">The number that goes with it; null for the usual one.</param>
    public string Line(double? amount = null) => string.Format(CultureInfo.InvariantCulture, Sentence, N(Kept(amount)));

    /// <summary>An amount as the scene keeps it: within its bounds, with its decimals.</summary>
    public double Kept(double? amount) =>
        Amount is null
            ? 0
            : Math.Round(Math.Clamp(amount is { } a && double.IsFinite(a) ? a : Amount.Usual, Amount.From, Amount.To), Amount.Digits);

    /// <summary>What was done, as a line of a scene.</summary>
    /// <param name="amount">The number that goes with it.</param>
    /// <param name="fromMicros">When it began, µs, whole milliseconds.</param>
    /// <param name="toMicros">When it ended, µs; null where it lasted to the end, and for a moment.</param>
    public string Done(double? amount, long fromMicros, long? toMicros)
    {
        var at = $" at {Seconds(fromMicros)} s";
        var line = Line(amount);
        if (toMicros is not { } to || Lasts == HandLasts.Moment)
            return line + at;
        // A mechanism that is turned is held for the rest of the time and then let go.
        return line.Contains(HoldsAfter, StringComparison.Ordinal)
            ? $"{line}{at}, holds {Seconds(Math.Max(0, to - fromMicros - 200_000))} s, lets go"
            : $"{line}{at} for {Seconds(to - fromMicros)} s";
    }

    private static string N(double value) => value.ToString(CultureInfo.InvariantCulture);

    private static string Seconds(long micros) => N(Math.Round(micros * 1e-6, 3));

    /// <summary>What can be done to a rig in a scene, people first, then what goes wrong.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="things">Names of things of the scene that can be taken away.</param>
    /// <param name="commanded">True for a mechanism that a program drives.</param>
    public static IReadOnlyList<Hand> Of(RigDesign rig, IEnumerable<string> things, Func<Mechanism, bool> commanded)
    {
        var all = new List<Hand>();
        void Add(string about, string words, string sentence, HandLasts lasts, HandAmount? amount = null) =>
            all.Add(new(about, words, sentence, lasts, amount, null, null));
        foreach (var s in rig.Sensors)
        {
            if (s.Facts.View == "switch")
                Add(s.Name, $"Hold {s.Name}", $"person holds {s.Name}", HandLasts.Held);
            else if (s.Kind == SensorKind.Distance)
            {
                var reach = s.ReachMm?.Value ?? 2000;
                Add(
                    s.Name,
                    $"A hand before {s.Name}",
                    $"hand {{0}} mm before {s.Name}",
                    HandLasts.Held,
                    new("mm", Math.Min(60, reach / 2), 1, reach, 0)
                );
                Add(s.Name, $"{s.Name} hears nothing", $"{s.Name} hears nothing", HandLasts.Held);
            }
            else
                foreach (var zone in s.Zones)
                {
                    var shown = s.Facts.SeesLight || s.Facts.View is "colours" or "names";
                    Add(
                        s.Name,
                        shown ? $"Show {zone} to {s.Name}" : $"{s.Name} reads {zone}",
                        shown ? $"person shows {zone} to {s.Name}" : $"{s.Name} reads {zone}",
                        HandLasts.Held
                    );
                }
        }
        foreach (var m in rig.Mechanisms.Where(m => m.Facts.Going == Going.Nowhere && !m.Facts.RunsOn && !commanded(m)))
            Add(
                m.Name,
                $"Turn {m.Name}",
                $"person turns {m.Name} to {{0}} motor deg {HoldsAfter}",
                HandLasts.Held,
                new("motor deg", 45, -720, 720, 0)
            );
        foreach (var thing in things)
            Add(thing, $"Take {thing} away", $"person takes {thing}", HandLasts.Moment);
        foreach (var m in rig.Mechanisms)
            Add(m.Name, $"Block {m.Name}", $"block {m.Name}", HandLasts.UntilAgain);
        if (rig.Mechanisms.Any(m => m.Facts.Going != Going.Nowhere))
            Add("rig", "Lift the rig", "lift the rig", HandLasts.UntilAgain);
        foreach (var s in rig.Sensors)
            Add(s.Name, $"Unplug {s.Name}", $"unplug {s.Name}", HandLasts.UntilAgain);
        foreach (var a in rig.Actuators.Where(a => a.Turns))
            Add(a.Name, $"Unplug {a.Name}", $"unplug {a.Name}", HandLasts.UntilAgain);
        var volts = rig.Power is { } p ? p.Cells * p.VoltsPerCell : 6;
        Add("pack", "Flatten the pack", "battery at {0} V", HandLasts.UntilAgain, new("V", Math.Round(volts * 0.7, 1), 0.5, volts, 2));
        return [.. all.Select((h, i) => h with { Key = KeyOf(i) })];
    }

    // Letters: digits open the parts of the application.
    private static string? KeyOf(int i) =>
        i < 26 ? ((char)('a' + i)).ToString()
        : i < 52 ? ((char)('A' + i - 26)).ToString()
        : null;
}
