using Chiton.Core.Programs.Engine;
using Chiton.Core.Rigs;
using Chiton.Core.Sensing;

namespace Chiton.Core.Programs.Outside;

/// <summary>How a board tells the zone of a reading where no thresholds on one number do.</summary>
internal abstract record BoardReader
{
    /// <summary>What boards know it by: 1 of bands, 2 of colours, 3 of colour words.</summary>
    public abstract int Kind { get; }

    /// <summary>The zone of a reading, as the program numbers zones; −1 for none.</summary>
    /// <param name="script">The program.</param>
    /// <param name="reading">One number, or red, green and blue.</param>
    public abstract int Zone(CompiledScript script, IReadOnlyList<double> reading);

    /// <summary>The reader of a sensor; null where thresholds tell its zones, or nothing does.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="calibration">Its calibration on the copy; null while there is none.</param>
    public static BoardReader? Of(Sensor sensor, SensorCalibration? calibration) =>
        sensor.Facts.View switch
        {
            "bands" when sensor.Bands.Count > 0 => new BoardBands(
                SenseJudge.Judged(sensor, calibration ?? SenseWords.Unread(sensor)),
                sensor.SilentReading
            ),
            "colours" when calibration is not null && SenseJudge.Classes(calibration) is { Classes.Count: >= 2 } input => new BoardColours(
                Colours.Compute(input).Result
            ),
            "names" when calibration is not null => new BoardWordZones(
                NamedColours.Judge(calibration.Zones, SenseJudge.ColourWords, sensor.SamplePeriodMs, calibration.MaxFalsePerHour).ByWord
            ),
            _ => null,
        };
}

/// <summary>Bands of distance: the nearer boundary decides, and beyond the bands none holds.</summary>
/// <param name="Bands">The bands.</param>
/// <param name="Silent">What the sensor answers when it hears nothing; null when it answers nothing.</param>
internal sealed record BoardBands(DistanceBands Bands, double? Silent) : BoardReader
{
    public override int Kind => 1;

    public override int Zone(CompiledScript script, IReadOnlyList<double> reading) =>
        Bands.Classify(reading[0], Silent) is { } zone ? script.ZoneIndex(zone) : -1;
}

/// <summary>Colours: the class whose readings lie nearest.</summary>
/// <param name="Colours">The classes.</param>
internal sealed record BoardColours(ColoursResult Colours) : BoardReader
{
    public override int Kind => 2;

    public override int Zone(CompiledScript script, IReadOnlyList<double> reading) =>
        reading.Count == 3 && Colours.Classify(reading) is { } zone ? script.ZoneIndex(zone) : -1;
}

/// <summary>Words for colours, by number.</summary>
/// <param name="ByWord">Which zone each word is taken for.</param>
internal sealed record BoardWordZones(IReadOnlyDictionary<string, string> ByWord) : BoardReader
{
    public override int Kind => 3;

    public override int Zone(CompiledScript script, IReadOnlyList<double> reading) =>
        Math.Round(reading[0]) is >= 0 and var k && k < SenseJudge.ColourWords.Count ? Zones(script)[(int)k] : -1;

    /// <summary>The zone of each word by its number, as the program numbers zones; −1 for none.</summary>
    public int[] Zones(CompiledScript script) =>
        [.. SenseJudge.ColourWords.Select(w => ByWord.TryGetValue(w, out var zone) ? script.ZoneIndex(zone) : -1)];
}
