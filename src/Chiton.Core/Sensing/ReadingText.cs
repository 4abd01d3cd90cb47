using System.Globalization;
using Chiton.Core.Quantities;
using CsvHelper;
using CsvHelper.Configuration;

namespace Chiton.Core.Sensing;

/// <summary>Readings from text as people have it: a pasted column, or CSV with or without a header and a zone column.</summary>
public static class ReadingText
{
    /// <summary>Most readings taken in at once.</summary>
    public const int MostReadings = 100_000;

    /// <summary>
    /// Reads readings. One number a line or cell; a header row is recognised by holding no number; a column headed
    /// "zone" (or a first column of words) gives the zone of its row. Decimal commas are understood, and a unit behind the number,
    /// which is turned into that of the sensor; lines that separate in different ways are refused, because one of them would be
    /// misread.
    /// </summary>
    /// <param name="text">The text.</param>
    /// <param name="zone">Zone for rows that name none.</param>
    /// <param name="knownZones">Zone names that may occur; matched without regard to case.</param>
    /// <param name="low">Least value the sensor can report.</param>
    /// <param name="high">Greatest value the sensor can report.</param>
    /// <param name="unit">Unit of the readings, for messages.</param>
    /// <param name="width">Numbers a reading; more than 1 means one reading a line.</param>
    /// <param name="words">What the sensor says instead of numbers, by its number; null where it says numbers.</param>
    /// <returns>Readings by zone, in order.</returns>
    /// <exception cref="InputProblem">Names the line and what is there; nothing is taken in then.</exception>
    public static IReadOnlyList<ZoneReadings> Parse(
        string text,
        string zone,
        IReadOnlyList<string> knownZones,
        double low,
        double high,
        string unit = "%",
        int width = 1,
        IReadOnlyList<string>? words = null
    )
    {
        double? Word(string cell) =>
            words is null ? null
            : Enumerable.Range(0, words.Count).FirstOrDefault(i => words[i].Equals(cell.Trim(), StringComparison.OrdinalIgnoreCase), -1)
                is >= 0
                    and var at
                ? at
            : null;
        bool IsNumber(string cell) => Number(cell) is not null || Word(cell) is not null;
        var separator = Separator(text);
        using var reader = new CsvReader(
            new StringReader(text),
            new CsvConfiguration(CultureInfo.InvariantCulture)
            {
                HasHeaderRecord = false,
                Delimiter = separator.ToString(),
                BadDataFound = null,
                IgnoreBlankLines = true,
                TrimOptions = TrimOptions.Trim,
                MissingFieldFound = null,
            }
        );
        var found = new Dictionary<string, List<double>>();
        var faults = new Dictionary<string, string>();
        if (Mixed(text, separator) is { } mixed)
            throw new InputProblem(
                $"text.line{mixed}",
                $"Line {mixed} separates in another way than the rest. Use one separator: tabs, semicolons or commas."
            );
        int zoneColumn = -1,
            valueColumn = -1,
            total = 0;
        var first = true;
        while (reader.Read())
        {
            var line = reader.Parser.RawRow;
            var cells = reader.Parser.Record!;
            if (cells.All(string.IsNullOrWhiteSpace))
                continue;
            if (first)
            {
                first = false;
                if (cells.All(c => !IsNumber(c)) && !cells.Any(c => Match(knownZones, c) is not null))
                {
                    zoneColumn = Array.FindIndex(cells, c => c.Equals("zone", StringComparison.OrdinalIgnoreCase));
                    valueColumn = Array.FindIndex(
                        cells,
                        c =>
                            c.StartsWith("reading", StringComparison.OrdinalIgnoreCase)
                            || c.StartsWith("value", StringComparison.OrdinalIgnoreCase)
                    );
                    // A single word above a column of numbers is a heading; anything else alone is a fault that the row loop names.
                    if (cells.Length > 1 || zoneColumn >= 0 || valueColumn >= 0 || MoreFollows(text, line))
                        continue;
                }
            }
            var name = zone;
            if (zoneColumn >= 0 || (cells.Length > 1 && !IsNumber(cells[0]) && cells[0] != ""))
            {
                if (zoneColumn >= cells.Length)
                {
                    faults.TryAdd($"text.line{line}", $"Line {line} is too short: it has no column “zone”.");
                    continue;
                }
                var cell = cells[Math.Max(zoneColumn, 0)];
                if (Match(knownZones, cell) is { } known)
                    name = known;
                else
                {
                    faults.TryAdd(
                        $"text.line{line}",
                        $"Line {line}: no zone “{Clip(cell)}”. The zones are {string.Join(", ", knownZones)}."
                    );
                    continue;
                }
            }
            var before = total;
            for (var i = 0; i < cells.Length; i++)
            {
                if (
                    i == zoneColumn
                    || (valueColumn >= 0 && i != valueColumn)
                    || cells[i] == ""
                    || (zoneColumn < 0 && i == 0 && cells.Length > 1 && !IsNumber(cells[0]))
                )
                    continue;
                if ((Word(cells[i]) ?? Number(cells[i])) is not { } plain)
                    faults.TryAdd(
                        $"text.line{line}",
                        words is null
                            ? $"Line {line}: “{Clip(cells[i])}” is not a number."
                            : $"Line {line}: “{Clip(cells[i])}” is none of {string.Join(", ", words)}."
                    );
                else if (In(cells[i], plain, unit) is not { } value)
                    faults.TryAdd(
                        $"text.line{line}",
                        $"Line {line}: {Clip(cells[i])} is in another unit than this sensor reads{(unit == "" ? "" : $", {unit}")}."
                    );
                else if (value < low || value > high)
                    faults.TryAdd(
                        $"text.line{line}",
                        $"Line {line}: {Clip(cells[i])} is outside {Figures.Show(low)} to "
                            + $"{Figures.Show(high)}{(unit == "" ? "" : " " + unit)}."
                    );
                else if (++total <= MostReadings)
                    (found.TryGetValue(name, out var list) ? list : found[name] = []).Add(value);
            }
            if (width > 1 && total - before != width)
                faults.TryAdd(
                    $"text.line{line}",
                    $"Line {line}: a reading of this sensor is {width} numbers a line; here are {total - before}."
                );
        }
        if (faults.Count > 5)
        {
            var more = faults.Count - 5;
            faults = faults.Take(5).ToDictionary();
            faults["text"] = $"{more} more {(more == 1 ? "line is" : "lines are")} wrong in the same way.";
        }
        if (faults.Count > 0)
            throw new InputProblem(faults);
        if (total > MostReadings)
            throw new InputProblem("text", $"At most {MostReadings} readings at once; there are {total}.");
        if (total == 0)
            throw new InputProblem("text", "There is no reading in this text. Paste one number a line.");
        return [.. found.Select(f => new ZoneReadings(f.Key, f.Value))];
    }

    // The number in the sensor's unit by the unit behind it; null when that measures something else.
    private static double? In(string cell, double plain, string unit)
    {
        var said = cell.Trim().TrimStart("+-0123456789.,eE ".ToCharArray()).Trim();
        if (said == "" || said == unit || Unit.Find(said) is not { } given || Unit.Find(unit) is not { } own)
            return plain;
        return given.Dimension == own.Dimension ? Math.Round(plain * given.Factor / own.Factor, 9) : null;
    }

    private static bool MoreFollows(string text, int line) => text.Split('\n').Skip(line).Any(l => Number(l) is not null);

    private static string? Match(IReadOnlyList<string> names, string cell) =>
        names.FirstOrDefault(n => n.Equals(cell.Trim(), StringComparison.OrdinalIgnoreCase));

    private static string Clip(string s) => s.Length <= 30 ? s : s[..30] + "…";

    private static double? Number(string cell)
    {
        // A unit behind the number is not needed and does no harm.
        var s = cell.Trim().TrimEnd("%°abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZµ/²".ToCharArray()).Trim();
        if (s.Contains(',') && !s.Contains('.'))
            s = s.Replace(',', '.');
        return double.TryParse(s, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v) ? v : null;
    }

    /// <summary>The first line that separates its cells otherwise than the separator found; null when none does.</summary>
    private static int? Mixed(string text, char separator)
    {
        if (separator == ',')
            return null;
        var lines = text.Split('\n');
        var decimals = lines.Any(l => l.Contains(separator) && l.Contains(','));
        for (var i = 0; i < lines.Length; i++)
        {
            var line = lines[i].Trim();
            if (line == "" || line.Contains(separator))
                continue;
            if (line.Contains(';') || line.Contains('\t') || line.Contains(',') && !decimals && lines.Any(l => l.Contains(separator)))
                return i + 1;
        }
        return null;
    }

    // A comma is a decimal comma when no line holds two of them and every line with one reads as a number that way.
    private static char Separator(string text)
    {
        if (text.Contains('\t'))
            return '\t';
        if (text.Contains(';'))
            return ';';
        var lines = text.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Where(l => l.Contains(','))
            .Take(50)
            .ToArray();
        return lines.Length > 0 && lines.All(l => l.Count(c => c == ',') == 1 && Number(l) is not null && l[^1] != ',' && !l.Contains(", "))
            ? ';'
            : ',';
    }
}
