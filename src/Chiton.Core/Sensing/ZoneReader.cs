using Chiton.Core.Rigs;

namespace Chiton.Core.Sensing;

/// <summary>Says in which zone a reading lies, for a sensor of any kind.</summary>
public sealed class ZoneReader
{
    private delegate string? ZoneOf(ReadOnlySpan<double> reading);

    private readonly ZoneOf zoneOf;

    private ZoneReader(ZoneOf zoneOf) => this.zoneOf = zoneOf;

    /// <summary>The zone of one reading; null when it lies in none, or when too little was recorded to say.</summary>
    /// <param name="reading">One number, or red, green and blue.</param>
    public string? Zone(params ReadOnlySpan<double> reading) => reading.Length == 0 || double.IsNaN(reading[0]) ? null : zoneOf(reading);

    /// <summary>A reader for a sensor as it is calibrated.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="calibration">Its calibration; null while there is none.</param>
    public static ZoneReader Of(Sensor sensor, SensorCalibration? calibration)
    {
        var facts = sensor.Facts;
        if (facts.View == "switch")
            return new(r => sensor.Zones.Count < 2 ? null : sensor.Zones[r[0] > 0.5 ? 1 : 0]);
        if (calibration is null)
            return new(_ => null);
        if (facts.View == "bands" && sensor.Bands.Count > 0)
        {
            var bands = SenseJudge.Judged(sensor, calibration);
            return new(r => bands.Classify(r[0], sensor.SilentReading));
        }
        if (facts.View == "colours")
        {
            if (SenseJudge.Classes(calibration) is not { Classes.Count: >= 2 } input)
                return new(_ => null);
            var result = Colours.Compute(input).Result;
            return new(r => r.Length == 3 ? result.Classify(r.ToArray()) : null);
        }
        if (facts.View == "names")
        {
            var named = NamedColours.Judge(calibration.Zones, SenseJudge.ColourWords, sensor.SamplePeriodMs, calibration.MaxFalsePerHour);
            return new(r =>
                (int)Math.Round(r[0]) is >= 0 and < 10 and var word ? named.ByWord.GetValueOrDefault(SenseJudge.ColourWords[word]) : null
            );
        }
        var scale = calibration.Scale();
        return new(r => scale is null || r[0] == sensor.SilentReading ? null : scale.Names[scale.First(r[0])]);
    }
}
