using Chiton.Core.Quantities;
using Chiton.Core.Rigs;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Sensing;

/// <summary>Asks about readings that look like another unit, or like something the sensor cannot report, before they are kept.</summary>
public static class ReadingQuestions
{
    /// <summary>What every question ends with; answered, the same readings are given again with “sure”.</summary>
    public const string Sure = "Keep them if you are sure.";

    /// <summary>The first thing that looks odd, in a sentence; null when nothing does.</summary>
    /// <param name="sensor">The sensor.</param>
    /// <param name="text">The text as it was given.</param>
    /// <param name="readings">What was read from it, in the sensor's unit.</param>
    /// <param name="known">What is known of the sensor already; null for nothing.</param>
    public static string? Ask(Sensor sensor, string text, IReadOnlyList<ZoneReadings> readings, SensorCalibration? known)
    {
        var facts = sensor.Facts;
        if (facts.Width != 1 || facts.View is not ("scalar" or "bands"))
            return null;
        if (Columns(text) is { } columns)
            return columns;
        foreach (var zone in readings)
        {
            double[] heard = [.. zone.Readings.Where(r => r != sensor.SilentReading)];
            if (heard.Length == 0)
                continue;
            if (facts.Unit == "%" && heard.FirstOrDefault(r => r is > 0 and < 1) is var share and > 0)
                return $"{Show(share)} among readings in percent: is that {Show(100 * share)} %, said as a share of one? {Sure}";
            // Of what kind of numbers the zone is, or the other zones are, where it has none yet.
            var before = known?.Kept(zone.Zone).Where(r => r != sensor.SilentReading).ToArray() is { Length: >= 3 } own ? own : heard;
            if (facts.Unit == "mm" && Median(before) is var usual and > 0)
                foreach (var r in heard)
                    if (Math.Abs(10 * r / usual - 1) < 0.3 && r < 0.5 * usual)
                        return $"{Show(r)} beside readings of about {Show(usual, 3)} mm: is that {Show(r)} cm, {Show(10 * r)} mm? "
                            + "Write the unit "
                            + $"behind it. {Sure}";
            if (
                facts.Unit == "mm"
                && sensor.Bands.FirstOrDefault(b => b.Zone == zone.Zone) is { } band
                && Median(heard) is var middle
                && middle < band.FromMm
                && 10 * middle >= band.FromMm
                && 10 * middle <= band.ToMm
            )
                return $"The readings of {zone.Zone} lie about {Show(middle, 3)}, and its band begins at {Show(band.FromMm)} mm: "
                    + "are they in cm? "
                    + $"Write the unit behind them. {Sure}";
            var step = sensor.Resolution;
            if (
                step > 0
                && heard.FirstOrDefault(r => Math.Abs(r / step - Math.Round(r / step)) > 0.01, double.NaN) is var fine
                && !double.IsNaN(fine)
            )
                return $"{Show(fine, 8)} is finer than {sensor.Name} can tell, which is "
                    + $"{Show(step)}{(facts.Unit == "" ? "" : $" {facts.Unit}")}: "
                    + $"are these averages, or of another sensor? {Sure}";
        }
        return null;
    }

    // Two columns of numbers with decimal commas look like four of whole numbers.
    private static string? Columns(string text)
    {
        string[] lines = [.. text.Split('\n').Select(l => l.Trim()).Where(l => l.Any(char.IsAsciiDigit))];
        if (lines.Length == 0 || text.Contains('.') || text.Contains(';') || text.Contains('\t'))
            return null;
        var cells = lines.Select(l => l.Split(',').Select(c => c.Trim()).ToArray()).ToArray();
        var width = cells[0].Length;
        if (width < 2 || cells.Any(c => c.Length != width || c.Any(x => x == "" || !x.All(char.IsAsciiDigit))))
            return null;
        if (width == 2)
            // As many digits on both sides, and of one size: two readings rather than one with a comma.
            return
                lines.Length > 1
                && cells.All(c => c[0].Length == c[1].Length && c[0].Length > 1 && c[1][0] != '0')
                && cells.All(c => double.Parse(c[0]) / double.Parse(c[1]) is > 0.5 and < 2)
                ? $"Is “{lines[0]}” one number with a decimal comma, or two readings? Part two with a semicolon. {Sure}"
                : null;
        return width % 2 == 0
            ? $"Is “{lines[0]}” {width} numbers, or {width / 2} with decimal commas? Part them with semicolons. {Sure}"
            : null;
    }

    private static double Median(double[] values)
    {
        var sorted = values.Order().ToArray();
        return sorted[sorted.Length / 2];
    }
}
