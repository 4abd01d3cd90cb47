using Chiton.Core.Rigs;

namespace Chiton.Core.Motion;

/// <summary>How long what never says that it is done takes on a copy.</summary>
/// <param name="Swings">From end to end, s, by name of the servo's mechanism and of the servo.</param>
/// <param name="Sounds">One sound, s, by name of the sounder.</param>
/// <param name="Spans">How far from end to end, servo degrees, by the names of <paramref name="Swings"/>.</param>
public sealed record Timings(
    IReadOnlyDictionary<string, double> Swings,
    IReadOnlyDictionary<string, double> Sounds,
    IReadOnlyDictionary<string, double> Spans
)
{
    /// <summary>A servo of which nothing is known swings about so long, s.</summary>
    public const double UsualSwingS = 0.5;

    /// <summary>A sound of which nothing is known lasts about so long, s.</summary>
    public const double UsualSoundS = 1;

    /// <summary>A usual servo turns so fast, degrees a second.</summary>
    public const double UsualServoDegPerS = 300;

    /// <summary>Nothing known.</summary>
    public static Timings None { get; } =
        new(new Dictionary<string, double>(), new Dictionary<string, double>(), new Dictionary<string, double>());

    /// <summary>As the design guesses.</summary>
    public static Timings Of(RigDesign rig) => new CopyMoves(rig, null, Nothing, Unaccepted).Timings;

    private static readonly Dictionary<string, IReadOnlyList<Trial>> Nothing = [];
    private static readonly Dictionary<string, AcceptedNumber> Unaccepted = [];

    /// <summary>How long a servo takes from end to end, s.</summary>
    public double SwingS(string device) => Swings.GetValueOrDefault(device, UsualSwingS);

    /// <summary>How long a sound lasts, s.</summary>
    /// <param name="sounder">The sounder; null when the rig has none.</param>
    public double SoundS(string? sounder) => sounder is null ? UsualSoundS : Sounds.GetValueOrDefault(sounder, UsualSoundS);
}
