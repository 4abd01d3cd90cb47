using Chiton.Core.Rigs;

namespace Chiton.Core.Sensing;

/// <summary>The hysteresis about a number that a program compares readings with, where no threshold of the sensor gives one.</summary>
public static class TypedBand
{
    /// <summary>Half the band about a number: that of the nearest boundary of its bands, else twice the noise of its readings within
    /// one zone; 0 where fewer than 3 readings of every zone are known.</summary>
    /// <param name="sensor">A sensor whose readings are single numbers.</param>
    /// <param name="calibration">Its readings on a copy.</param>
    /// <returns>Half the band by the number, both in the units of the readings.</returns>
    public static Func<double, double> Of(Sensor sensor, SensorCalibration calibration)
    {
        if (sensor.Facts is not { Width: 1 })
            return _ => 0;
        if (sensor.Bands.Count > 1)
        {
            var boundaries = SenseJudge.Judged(sensor, calibration).Boundaries;
            if (boundaries.Count > 0)
                return value => boundaries.MinBy(b => Math.Abs(b.ThresholdMm - value))!.HysteresisMm;
        }
        var noise = Noise(sensor, calibration);
        return _ => 2 * noise;
    }

    // SD within zones, pooled over those with enough readings; never finer than the sensor can tell.
    private static double Noise(Sensor sensor, SensorCalibration calibration)
    {
        var (sum, free) = (0.0, 0);
        foreach (var zone in calibration.Zones)
        {
            double[] heard = [.. calibration.Kept(zone.Zone).Where(r => r != sensor.SilentReading)];
            if (heard.Length < 3)
                continue;
            var mean = heard.Average();
            sum += heard.Sum(r => (r - mean) * (r - mean));
            free += heard.Length - 1;
        }
        return free == 0 ? 0 : Math.Max(Math.Sqrt(sum / free), calibration.Resolution / Math.Sqrt(12));
    }
}
