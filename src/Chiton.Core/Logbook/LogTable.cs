using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Chiton.Core.Quantities;
using CsvHelper;
using CsvHelper.Configuration;
using static Chiton.Core.Simulation.RunExport;

namespace Chiton.Core.Logbook;

/// <summary>What a column of a log that was kept elsewhere is.</summary>
public enum LogField
{
    /// <summary>Nothing that is kept.</summary>
    None,

    /// <summary>Whether it passed; every row needs it.</summary>
    Passed,

    /// <summary>When it ended.</summary>
    Time,

    /// <summary>How long it took, s.</summary>
    Seconds,

    /// <summary>The revision that ran.</summary>
    Revision,

    /// <summary>The copy that ran.</summary>
    Copy,

    /// <summary>Its series.</summary>
    Series,

    /// <summary>The goal that was missed.</summary>
    Goal,

    /// <summary>Why it failed.</summary>
    Cause,

    /// <summary>Whether the bench shows such failures.</summary>
    Expected,

    /// <summary>The light.</summary>
    Light,

    /// <summary>The pack.</summary>
    Pack,

    /// <summary>The floor.</summary>
    Floor,

    /// <summary>Who started it.</summary>
    Who,

    /// <summary>A note.</summary>
    Note,

    /// <summary>Something that was measured.</summary>
    Measured,

    /// <summary>A key that Chiton gave it.</summary>
    Key,
}

/// <summary>How days are written.</summary>
public enum DayForm
{
    /// <summary>2026-11-29.</summary>
    YearFirst,

    /// <summary>29.11.2026 or 29/11/2026.</summary>
    DayFirst,

    /// <summary>11/29/2026.</summary>
    MonthFirst,
}

/// <summary>What a column is.</summary>
/// <param name="Column">Its heading.</param>
/// <param name="Field">What it is.</param>
/// <param name="Unit">Of what was measured, the unit; else empty.</param>
public sealed record MappedColumn(string Column, LogField Field, string Unit = "");

/// <summary>How a table is read as a log.</summary>
/// <param name="Columns">What each column is.</param>
/// <param name="Passes">What stands for a run that passed, as it is written.</param>
/// <param name="Fails">What stands for one that failed.</param>
/// <param name="Days">How days are written.</param>
public sealed record LogMapping(
    IReadOnlyList<MappedColumn> Columns,
    IReadOnlyList<string> Passes,
    IReadOnlyList<string> Fails,
    DayForm Days = DayForm.YearFirst
);

/// <summary>A row that cannot be read.</summary>
/// <param name="Line">Its line in the text, from 1.</param>
/// <param name="Say">What is wrong with it.</param>
public sealed record BadRow(int Line, string Say);

/// <summary>A table read as a log.</summary>
/// <param name="Entries">The runs.</param>
/// <param name="Bad">Rows that cannot be read.</param>
public sealed record ReadLog(IReadOnlyList<LogEntry> Entries, IReadOnlyList<BadRow> Bad);

/// <summary>What holds for rows that do not say it.</summary>
/// <param name="Copy">The copy.</param>
/// <param name="Revision">The revision.</param>
/// <param name="Revisions">How many revisions there are.</param>
/// <param name="Copies">Numbers of the copies.</param>
/// <param name="NowUtc">The time now, UTC: where no row says when, they were made one second after the other until then.</param>
/// <param name="MinutesEast">How far the clock that wrote the times is ahead of UTC, minutes.</param>
public sealed record RowDefaults(int Copy, int Revision, int Revisions, IReadOnlyList<int> Copies, DateTime NowUtc, int MinutesEast = 0);

/// <summary>A log as a table of text, out and in.</summary>
/// <param name="Columns">Headings, each once.</param>
/// <param name="Rows">Cells of each row.</param>
/// <param name="Lines">Line of each row in the text, from 1.</param>
public sealed record LogTable(IReadOnlyList<string> Columns, IReadOnlyList<IReadOnlyList<string>> Rows, IReadOnlyList<int> Lines)
{
    // What a column is headed, where another has the same heading.
    private IReadOnlyDictionary<string, string> Again { get; init; } = new Dictionary<string, string>();

    /// <summary>Most rows that are taken in at once.</summary>
    public const int MostRows = 5000;

    /// <summary>Most columns.</summary>
    public const int MostColumns = 60;

    /// <summary>Most letters of a text that is taken in.</summary>
    public const int MostLetters = 4_000_000;

    private static readonly (LogField Field, string[] Words)[] Headings =
    [
        (LogField.Key, ["key"]),
        (LogField.Passed, ["passed", "pass", "result", "outcome", "success", "ok", "worked"]),
        (LogField.Expected, ["expected", "cause expected"]),
        (LogField.Seconds, ["seconds", "time in s", "time s", "duration", "run time", "stopwatch", "took"]),
        (LogField.Time, ["time utc", "when", "date", "day", "time", "timestamp", "at"]),
        (LogField.Revision, ["revision", "version", "program"]),
        (LogField.Copy, ["copy", "robot"]),
        (LogField.Series, ["series", "session", "round"]),
        (LogField.Goal, ["goal", "goal missed", "missed"]),
        (LogField.Cause, ["cause", "why", "reason", "failure"]),
        (LogField.Light, ["light", "lighting"]),
        (LogField.Pack, ["pack", "battery"]),
        (LogField.Floor, ["floor", "table", "surface"]),
        (LogField.Who, ["who", "operator", "started by", "by"]),
        (LogField.Note, ["note", "notes", "comment", "remark"]),
    ];

    private static readonly string[] PassWords = ["pass", "passed", "p", "yes", "y", "ok", "1", "true", "won", "success", "done", "good"],
        FailWords = ["fail", "failed", "f", "no", "n", "0", "false", "lost", "x", "bad", "miss", "missed"];

    private static readonly string[] Separators = ["\t", ";", ","];

    /// <summary>Reads a table. Tabs, semicolons or commas separate its cells, the first row that is not empty has the headings.</summary>
    /// <param name="text">The text.</param>
    /// <exception cref="InputProblem">When it is no table, or too large.</exception>
    public static LogTable Read(string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
            throw new InputProblem("text", "There is nothing in it. A table with headings is wanted, a run a row.");
        if (text.Length > MostLetters)
            throw new InputProblem("text", $"At most {MostLetters / 1_000_000} million letters at once.");
        var head = text.TrimStart('\uFEFF', '\n', '\r', ' ').Split('\n', 2)[0];
        var separator = Separators.FirstOrDefault(head.Contains, ",");
        using var reader = new CsvReader(
            new StringReader(text.TrimStart('\uFEFF')),
            new CsvConfiguration(CultureInfo.InvariantCulture)
            {
                HasHeaderRecord = false,
                Delimiter = separator,
                BadDataFound = null,
                IgnoreBlankLines = true,
                TrimOptions = TrimOptions.Trim,
            }
        );
        string[]? columns = null;
        var again = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        var (rows, lines) = (new List<string[]>(), new List<int>());
        while (reader.Read())
        {
            string[] cells = [.. reader.Parser.Record!.Select(Plain)];
            if (cells.All(c => c == ""))
                continue;
            if (columns is null)
            {
                if (cells.Length > MostColumns)
                    throw new InputProblem("text", $"At most {MostColumns} columns; there are {cells.Length}.");
                columns = Named(cells, again);
                continue;
            }
            if (rows.Count == MostRows)
                throw new InputProblem("text", $"At most {MostRows} rows at once: import it in parts.");
            rows.Add([.. Enumerable.Range(0, columns.Length).Select(i => i < cells.Length ? cells[i] : "")]);
            lines.Add(reader.Parser.RawRow);
        }
        if (columns is null || rows.Count == 0)
            throw new InputProblem("text", "There are headings but no run. A table is wanted, a run a row.");
        return new(columns, rows, lines) { Again = again };
    }

    // What was made safe for a spreadsheet comes in as it was.
    private static string Plain(string cell) => cell is ['\'', '=' or '+' or '-' or '@' or '\t' or '\r', ..] ? cell[1..] : cell;

    private static string[] Named(string[] cells, Dictionary<string, string> again)
    {
        var seen = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        for (var i = 0; i < cells.Length; i++)
        {
            var head =
                cells[i] == "" ? $"column {i + 1}"
                : cells[i].Length > 80 ? cells[i][..80]
                : cells[i];
            var name = head;
            for (var n = 2; !seen.Add(name); n++)
                name = $"{head} ({n})";
            if (name != head)
                again[name] = head;
            cells[i] = name;
        }
        return cells;
    }

    /// <summary>The same for tables that have the same columns.</summary>
    public string Hash => Hashed(string.Join('\n', Columns.Select(c => c.ToLowerInvariant())));

    private static string Hashed(string text) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)));

    /// <summary>What the columns are likely to be, by their headings.</summary>
    public LogMapping Suggest()
    {
        var taken = new HashSet<LogField>();
        var columns = Columns.Select((c, i) => Suggest(c, i, taken)).ToArray();
        var at = Array.FindIndex(columns, c => c.Field == LogField.Passed);
        if (
            at < 0
            && (at = Enumerable.Range(0, Columns.Count).FirstOrDefault(i => columns[i].Field == LogField.None && IsVerdict(i), -1)) >= 0
        )
            columns[at] = columns[at] with { Field = LogField.Passed };
        var said = at < 0 ? [] : Rows.Select(r => r[at]).Where(c => c != "").Distinct(StringComparer.OrdinalIgnoreCase).Take(20).ToArray();
        var time = Array.FindIndex(columns, c => c.Field == LogField.Time);
        return new(
            columns,
            [.. said.Where(s => Is(PassWords, s))],
            [.. said.Where(s => Is(FailWords, s))],
            time < 0 ? default : Days(time)
        );
    }

    private static bool Is(IEnumerable<string> words, string said) => words.Contains(said, StringComparer.OrdinalIgnoreCase);

    private bool IsVerdict(int column) => Rows.All(r => r[column] == "" || Is(PassWords, r[column]) || Is(FailWords, r[column]));

    private MappedColumn Suggest(string column, int at, HashSet<LogField> taken)
    {
        var (name, unit) = Unit(Again.GetValueOrDefault(column, column));
        var plain = string.Join(
            ' ',
            column.ToLowerInvariant().Split([' ', '_', '-', '(', ')', '[', ']', ':'], StringSplitOptions.RemoveEmptyEntries)
        );
        var field = Headings.FirstOrDefault(h => h.Words.Contains(plain)).Field;
        if (field == LogField.Time && Rows.All(r => r[at] == "" || Number(r[at]) is not null))
            field = LogField.Seconds;
        if (field != LogField.None && taken.Add(field))
            return new(column, field);
        // A number with a unit was measured.
        return unit != "" && name != "" && Rows.Any(r => r[at] != "") && Rows.All(r => r[at] == "" || Number(r[at]) is not null)
            ? new(column, LogField.Measured, unit == "-" ? "" : unit)
            : new(column, LogField.None);
    }

    // "stood at in mm", "stood at (mm)", "stood at [mm]".
    private static (string Name, string Unit) Unit(string column)
    {
        var c = column.Trim();
        foreach (var (open, close) in new[] { (" (", ")"), (" [", "]"), (" in ", "") })
            if (c.LastIndexOf(open, StringComparison.Ordinal) is > 0 and var at && c.EndsWith(close, StringComparison.Ordinal))
                return (c[..at], c[(at + open.Length)..(c.Length - close.Length)]);
        return (c, "");
    }

    /// <summary>How days are written in a column: the first form that reads them all.</summary>
    /// <param name="column">The column, from 0.</param>
    public DayForm Days(int column)
    {
        foreach (var form in Enum.GetValues<DayForm>())
            if (Rows.All(r => r[column] == "" || Time(r[column], form, 0) is not null))
                return form;
        return DayForm.YearFirst;
    }

    /// <summary>Reads the rows as runs.</summary>
    /// <param name="mapping">What the columns are.</param>
    /// <param name="otherwise">What holds for rows that do not say it.</param>
    /// <exception cref="InputProblem">When a column is not there, or nothing says whether a run passed.</exception>
    public ReadLog Entries(LogMapping mapping, RowDefaults otherwise)
    {
        var at = new Dictionary<LogField, int>();
        var measured = new List<(int At, string What, string Unit)>();
        var need = new Require();
        for (var i = 0; i < mapping.Columns.Count; i++)
        {
            var c = mapping.Columns[i];
            if (c is null || c.Field == LogField.None)
                continue;
            var column = Columns.ToList().FindIndex(n => n.Equals(c.Column, StringComparison.OrdinalIgnoreCase));
            if (column < 0)
                need.That(false, $"mapping.columns[{i}].column", $"There is no column “{c.Column}”.");
            else if (c.Field == LogField.Measured)
                measured.Add((column, Clip(Unit(Again.GetValueOrDefault(c.Column, c.Column)).Name, 60), Clip(c.Unit ?? "", 20)));
            else
                need.That(
                    at.TryAdd(c.Field, column),
                    $"mapping.columns[{i}].field",
                    $"Two columns are {c.Field.ToString().ToLowerInvariant()}."
                );
        }
        need.That(at.ContainsKey(LogField.Passed), "mapping.columns", "Say which column tells whether a run passed.");
        need.Done();
        var (entries, bad) = (new List<LogEntry>(), new List<BadRow>());
        // The same row twice in one table is two runs; the same table read twice is one.
        var times = new Dictionary<string, int>();
        for (var r = 0; r < Rows.Count; r++)
        {
            var row = Rows[r];
            string Cell(LogField f, int most) => at.TryGetValue(f, out var c) ? Clip(row[c], most) : "";
            var faults = new List<string>();
            T Or<T>(LogField f, Func<string, T?> read, T otherwise, string must)
                where T : struct
            {
                var cell = Cell(f, 100);
                if (cell == "")
                    return otherwise;
                if (read(cell) is { } found)
                    return found;
                faults.Add($"“{Clip(cell, 30)}” is {must}.");
                return otherwise;
            }
            var said = Cell(LogField.Passed, 100);
            var passed = Is(mapping.Passes, said);
            if (said == "")
                faults.Add("Nothing says whether it passed.");
            else if (!passed && !Is(mapping.Fails, said))
                faults.Add($"“{Clip(said, 30)}” is neither among what passed nor among what failed.");
            var time = Or(
                LogField.Time,
                c => Time(c, mapping.Days, otherwise.MinutesEast) is { Year: >= 2000 } t && t < otherwise.NowUtc.AddDays(1) ? t : null,
                otherwise.NowUtc.AddSeconds(r - Rows.Count),
                "no time that can be"
            );
            var seconds = Or(
                LogField.Seconds,
                c => Seconds(c) is > 0 and <= 3600 and var s ? s : null,
                0.0,
                "no time of a run, above 0 and at most 3 600 s"
            );
            var revision = Or(
                LogField.Revision,
                c => Whole(c) is >= 1 and var v && v <= otherwise.Revisions ? v : null,
                otherwise.Revision,
                $"no revision of this rig, 1 to {otherwise.Revisions}"
            );
            var copy = Or(
                LogField.Copy,
                c => Whole(c) is { } v && otherwise.Copies.Contains(v) ? v : null,
                otherwise.Copy,
                $"no copy of this rig: there {(otherwise.Copies.Count == 1 ? "is" : "are")} "
                    + Figures.List(otherwise.Copies.Select(c => $"{c}"))
            );
            var values = new List<MeasuredValue>();
            foreach (var m in measured)
                if (row[m.At] != "")
                {
                    if (Number(row[m.At]) is { } v && Math.Abs(v) <= 1e9)
                        values.Add(new(m.What, v, m.Unit));
                    else
                        faults.Add($"“{Clip(row[m.At], 30)}” is no number.");
                }
            if (values.Count > 20)
                faults.Add("At most 20 things were measured of a run.");
            if (faults.Count > 0)
            {
                bad.Add(new(Lines[r], string.Join(" ", faults)));
                continue;
            }
            var content = string.Join('\u001f', row.Append($"{copy}").Append($"{revision}"));
            var nth = times[content] = times.GetValueOrDefault(content) + 1;
            var given = Cell(LogField.Key, 80);
            entries.Add(
                new(
                    IsKey(given) ? given : $"table-{Hashed($"{content}\u001f{nth}")[..40]}",
                    copy,
                    revision,
                    passed,
                    time,
                    seconds > 0 ? seconds : null,
                    passed ? "" : Cell(LogField.Goal, 300),
                    passed ? "" : Cell(LogField.Cause, 500),
                    !passed && Is(PassWords, Cell(LogField.Expected, 10)),
                    Cell(LogField.Note, 1000),
                    values,
                    Cell(LogField.Series, 100),
                    Cell(LogField.Light, 100),
                    Cell(LogField.Pack, 100),
                    Cell(LogField.Floor, 100),
                    Cell(LogField.Who, 100)
                )
            );
        }
        return new(entries, bad);
    }

    /// <summary>A key of a series for the runs of a table that belong together; empty where nothing makes them one.</summary>
    public static string SeriesKey(LogEntry entry) =>
        IsKey(entry.Series) ? entry.Series
        : string.Concat(entry.Series, entry.Light, entry.Pack, entry.Floor, entry.Who) == "" ? ""
        : $"table-{Hashed(string.Join('\u001f', entry.Copy, entry.Series, entry.Light, entry.Pack, entry.Floor, entry.Who))[..40]}";

    /// <summary>True for a key as pages give them: 8 to 64 letters, digits and hyphens.</summary>
    public static bool IsKey(string? key) => key is { Length: >= 8 and <= 64 } && key.All(c => char.IsAsciiLetterOrDigit(c) || c == '-');

    private static string Clip(string s, int most) => s.Length <= most ? s : s[..(most - 1)] + "…";

    private static double? Number(string cell)
    {
        var s = cell.Trim();
        if (s.Contains(',') && !s.Contains('.'))
            s = s.Replace(',', '.');
        return double.TryParse(s, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v) ? v : null;
    }

    private static int? Whole(string cell) => Number(cell) is { } v && v == Math.Floor(v) && Math.Abs(v) < 1e6 ? (int)v : null;

    // 12.4, 12,4, 12.4 s, 1:02.5
    private static double? Seconds(string cell)
    {
        var s = cell.Trim();
        if (s.EndsWith('s'))
            s = s[..^1].Trim();
        var parts = s.Split(':');
        return parts.Length == 1 ? Number(s)
            : parts.Length == 2 && Whole(parts[0]) is >= 0 and var min && Number(parts[1]) is >= 0 and < 60 and var rest ? 60 * min + rest
            : null;
    }

    private static readonly string[] Clocks = ["", " H:mm", " H:mm:ss", " H:mm:ss.FFFFFFF", " h:mm tt", " h:mm:ss tt"];

    private static readonly Dictionary<DayForm, string[]> Forms = new Dictionary<DayForm, string[]>
    {
        [DayForm.YearFirst] = ["yyyy-M-d", "yyyy/M/d", "yyyy.M.d"],
        [DayForm.DayFirst] = ["d.M.yyyy", "d/M/yyyy", "d-M-yyyy"],
        [DayForm.MonthFirst] = ["M/d/yyyy", "M-d-yyyy", "M.d.yyyy"],
    }.ToDictionary(f => f.Key, f => f.Value.SelectMany(d => Clocks.Select(c => d + c)).ToArray());

    private static DateTime? Time(string cell, DayForm form, int minutesEast)
    {
        var s = cell.Trim().Replace(", ", " ", StringComparison.Ordinal);
        const DateTimeStyles utc = DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal;
        // With a place of its own on the day line it says what it means.
        var stamped = s.Length > 10 && s[10] == 'T';
        if (stamped && (s.EndsWith('Z') || s.LastIndexOfAny(['+', '-']) > 10))
            return DateTimeOffset.TryParse(s, CultureInfo.InvariantCulture, utc, out var own) ? own.UtcDateTime : null;
        if (stamped)
            s = s[..10] + " " + s[11..];
        return DateTime.TryParseExact(s, Forms[form], CultureInfo.InvariantCulture, DateTimeStyles.None, out var local)
            ? DateTime.SpecifyKind(local.AddMinutes(-minutesEast), DateTimeKind.Utc)
            : null;
    }

    /// <summary>A log as CSV, a run a row; what was measured has a column each, and one more for each time that it was measured again in
    /// the same run. Read in again it is the same.</summary>
    public static string Csv(IReadOnlyList<LogEntry> entries)
    {
        var measured = entries
            .SelectMany(e => e.Measured.GroupBy(m => (m.What, m.Unit)).Select(g => (g.Key.What, g.Key.Unit, Times: g.Count())))
            .GroupBy(m => (m.What, m.Unit))
            .SelectMany(g => Enumerable.Range(0, g.Max(m => m.Times)).Select(n => (g.Key.What, g.Key.Unit, Nth: n)))
            .ToArray();
        string[] heads =
        [
            "key",
            "copy",
            "revision",
            "passed",
            "time UTC",
            "seconds",
            "series",
            "light",
            "pack",
            "floor",
            "who",
            "goal",
            "cause",
            "expected",
            "note",
        ];
        var csv = new StringBuilder();
        csv.AppendJoin(',', heads.Concat(measured.Select(m => Text(m.Unit == "" ? $"{m.What} (-)" : $"{m.What} ({m.Unit})")))).Append('\n');
        foreach (var e in entries)
        {
            string[] cells =
            [
                e.Key,
                e.Copy.ToString(CultureInfo.InvariantCulture),
                e.Revision.ToString(CultureInfo.InvariantCulture),
                e.Passed ? "pass" : "fail",
                e.TimeUtc.ToString("yyyy-MM-ddTHH:mm:ss.fffffffZ", CultureInfo.InvariantCulture),
                e.TimeS is { } s ? s.ToString("R", CultureInfo.InvariantCulture) : "",
                Text(e.Series),
                Text(e.Light),
                Text(e.Pack),
                Text(e.Floor),
                Text(e.Who),
                Text(e.Goal),
                Text(e.Cause),
                e.CauseExpected ? "yes" : "",
                Text(e.Note),
                .. measured.Select(m =>
                    e.Measured.Where(v => v.What == m.What && v.Unit == m.Unit).ElementAtOrDefault(m.Nth) is { } v
                        ? v.Value.ToString("R", CultureInfo.InvariantCulture)
                        : ""
                ),
            ];
            csv.AppendJoin(',', cells).Append('\n');
        }
        return csv.ToString();
    }
}
