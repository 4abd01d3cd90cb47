using Chiton.Core.Logbook;
using Chiton.Core.Quantities;

namespace Chiton.Core.Tests.Logbook;

/// <summary>Logs as tables of text, out and in.</summary>
public class LogTableTests
{
    private static readonly DateTime Now = new(2026, 11, 29, 12, 0, 0, DateTimeKind.Utc);

    private static readonly RowDefaults Otherwise = new(1, 3, 3, [1, 2], Now);

    private static ReadLog Read(string text, Func<LogMapping, LogMapping>? change = null, RowDefaults? otherwise = null)
    {
        var table = LogTable.Read(text);
        var mapping = table.Suggest();
        return table.Entries(change is null ? mapping : change(mapping), otherwise ?? Otherwise);
    }

    private static LogEntry[] Made(int count, ulong seed)
    {
        var luck = new RandomStream(seed, 5);
        string[] texts =
        [
            "",
            "plain",
            "with, comma",
            "with \"quotes\"",
            "two\nlines",
            "=SUM(A1)",
            "-1 off",
            "@home",
            "+2",
            "ölig; ½",
            "a\tb",
        ];
        string Text() => texts[(int)(luck.Uniform() * texts.Length)];
        return
        [
            .. Enumerable
                .Range(0, count)
                .Select(i =>
                {
                    var passed = luck.Uniform() < 0.6;
                    MeasuredValue[] measured =
                    [
                        .. new[] { ("stood at", "mm"), ("angle (left)", "deg"), ("count", ""), ("in, out", "%") }
                            .Where(_ => luck.Uniform() < 0.4)
                            .Select(m => new MeasuredValue(m.Item1, luck.Uniform() * 2000 - 1000, m.Item2)),
                    ];
                    return new LogEntry(
                        $"run-{seed}-{i:0000}",
                        luck.Uniform() < 0.5 ? 1 : 2,
                        1 + (int)(luck.Uniform() * 3),
                        passed,
                        Now.AddTicks(-(long)(luck.Uniform() * 1e15)),
                        luck.Uniform() < 0.5 ? null : 0.1 + luck.Uniform() * 100,
                        passed ? "" : Text(),
                        passed ? "" : Text(),
                        !passed && luck.Uniform() < 0.5,
                        Text(),
                        measured,
                        "",
                        Text(),
                        Text(),
                        Text(),
                        Text()
                    );
                }),
        ];
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void What_goes_out_comes_in_the_same(ulong seed)
    {
        var made = Made(200, seed);
        var read = Read(LogTable.Csv(made));
        Assert.Empty(read.Bad);
        Assert.Equal(made.Length, read.Entries.Count);
        for (var i = 0; i < made.Length; i++)
        {
            // What was measured has a column each, so it comes in by columns.
            Assert.Equal(made[i].Measured.OrderBy(m => m.What), read.Entries[i].Measured.OrderBy(m => m.What));
            Assert.Equal(made[i] with { Measured = [] }, read.Entries[i] with { Measured = [] });
        }
    }

    [Fact]
    public void What_was_measured_again_in_a_run_has_a_column_for_each_time()
    {
        MeasuredValue[] twice = [new("stopped", 812, "mm"), new("stopped", 809.5, "mm"), new("turns", 3, ""), new("stopped", 815, "mm")];
        var entry = Made(1, 5)[0];
        var csv = LogTable.Csv([entry with { Measured = twice }, entry with { Key = entry.Key + "b", Measured = [twice[1]] }]);
        Assert.EndsWith("stopped (mm),stopped (mm),stopped (mm),turns (-)", csv.Split('\n')[0]);
        var read = Read(csv);
        Assert.Empty(read.Bad);
        Assert.Equal([twice[0], twice[1], twice[3], twice[2]], read.Entries[0].Measured);
        Assert.Equal([twice[1]], read.Entries[1].Measured);
    }

    // A heading of somebody else's that only looks like a second one stays what it is.
    [Fact]
    public void A_heading_that_ends_in_a_number_keeps_it()
    {
        var read = Read("passed,bay (2) in mm,bay in mm\nyes,5,7\n");
        Assert.Equal([("bay (2)", 5.0), ("bay", 7.0)], read.Entries[0].Measured.Select(m => (m.What, m.Value)));
    }

    [Fact]
    public void A_table_of_somebody_elses_is_understood()
    {
        var read = Read(
            """
            Date;Result;Took;Reason;stop (mm);Remark;Robot
            29.11.2026 08:05;OK;12,4;;812,5;;1
            29.11.2026 08:07;no;1:02,5;ran past;;wet rail;2

            29.11.2026 08:09;Ok;;;;;
            """,
            null,
            Otherwise with
            {
                MinutesEast = 60,
            }
        );
        Assert.Empty(read.Bad);
        Assert.Equal([true, false, true], read.Entries.Select(e => e.Passed));
        Assert.Equal([12.4, 62.5, null], read.Entries.Select(e => e.TimeS));
        Assert.Equal(new DateTime(2026, 11, 29, 7, 5, 0, DateTimeKind.Utc), read.Entries[0].TimeUtc);
        Assert.Equal([new MeasuredValue("stop", 812.5, "mm")], read.Entries[0].Measured);
        Assert.Equal(
            ("ran past", "wet rail", 2, 3),
            (read.Entries[1].Cause, read.Entries[1].Note, read.Entries[1].Copy, read.Entries[1].Revision)
        );
    }

    [Fact]
    public void A_table_read_twice_is_the_same_runs_and_the_same_row_twice_is_two()
    {
        const string text = "passed,note\nyes,same\nyes,same\nno,same\n";
        var (first, again) = (Read(text), Read(text, null, Otherwise with { NowUtc = Now.AddDays(3) }));
        Assert.Equal(first.Entries.Select(e => e.Key), again.Entries.Select(e => e.Key));
        Assert.Equal(3, first.Entries.Select(e => e.Key).Distinct().Count());
        Assert.All(first.Entries, e => Assert.True(LogTable.IsKey(e.Key)));
        // Without times they were made in the order of their rows.
        Assert.Equal(first.Entries.OrderBy(e => e.TimeUtc), first.Entries);
        // More rows below change nothing of those above.
        Assert.Equal(first.Entries[0].Key, Read(text + "no,later\n").Entries[0].Key);
    }

    [Theory]
    [InlineData("when,passed\n2026-13-01,yes", 2, "“2026-13-01” is no time that can be.")]
    [InlineData("when,passed\n2027-01-01,yes", 2, "“2027-01-01” is no time that can be.")]
    [InlineData("passed\nyes\nmaybe", 3, "“maybe” is neither among what passed nor among what failed.")]
    [InlineData("passed,note\nyes,a\n,b", 3, "Nothing says whether it passed.")]
    [InlineData("passed,seconds\nyes,-3", 2, "“-3” is no time of a run, above 0 and at most 3 600 s.")]
    [InlineData("passed,seconds\nyes,1e9", 2, "“1e9” is no time of a run, above 0 and at most 3 600 s.")]
    [InlineData("passed,revision\nyes,4", 2, "“4” is no revision of this rig, 1 to 3.")]
    [InlineData("passed,revision\nyes,1.5", 2, "“1.5” is no revision of this rig, 1 to 3.")]
    [InlineData("passed,copy\nyes,7", 2, "“7” is no copy of this rig: there are 1 and 2.")]
    public void A_row_that_cannot_be_read_is_told_with_its_line(string text, int line, string say)
    {
        var bad = Assert.Single(Read(text).Bad);
        Assert.Equal((line, say), (bad.Line, bad.Say));
    }

    [Fact]
    public void A_measured_column_takes_numbers_only()
    {
        var read = Read(
            "passed,stop (mm)\nyes,12\nyes,far",
            m => m with { Columns = [m.Columns[0], new("stop (mm)", LogField.Measured, "mm")] }
        );
        Assert.Equal([new(3, "“far” is no number.")], read.Bad);
        Assert.Equal(12, Assert.Single(read.Entries[0].Measured).Value);
    }

    [Theory]
    [InlineData("", "text")]
    [InlineData("passed", "text")]
    [InlineData("a,b\n1,", "mapping.columns")]
    public void What_is_no_log_is_refused(string text, string field)
    {
        var problem = Assert.Throws<InputProblem>(() =>
            Read(text, m => m with { Columns = [.. m.Columns.Select(c => c with { Field = LogField.None })] })
        );
        Assert.Equal([field], problem.Errors.Keys);
    }

    [Fact]
    public void Columns_that_are_not_there_and_one_thing_twice_are_named()
    {
        var problem = Assert.Throws<InputProblem>(() =>
            Read(
                "passed,a\nyes,1",
                _ => new([new("passed", LogField.Passed), new("a", LogField.Passed), new("b", LogField.Note)], ["yes"], [])
            )
        );
        Assert.Equal(["mapping.columns[1].field", "mapping.columns[2].column"], problem.Errors.Keys);
    }

    [Theory]
    [InlineData("29.11.2026", DayForm.DayFirst)]
    [InlineData("11/29/2026", DayForm.MonthFirst)]
    [InlineData("2026-11-29", DayForm.YearFirst)]
    [InlineData("2026-11-29T10:00:00+02:00", DayForm.YearFirst)]
    public void How_days_are_written_is_found(string day, DayForm form) =>
        Assert.Equal(form, LogTable.Read($"date,passed\n{day},yes").Suggest().Days);

    [Fact]
    public void A_time_with_its_own_place_on_the_clock_is_taken_by_it()
    {
        var read = Read("date,passed\n2026-11-29T10:00:00+02:00,yes", null, Otherwise with { MinutesEast = -300 });
        Assert.Equal(new DateTime(2026, 11, 29, 8, 0, 0, DateTimeKind.Utc), read.Entries[0].TimeUtc);
    }

    [Fact]
    public void A_column_of_yes_and_no_without_a_heading_that_tells_is_whether_it_passed()
    {
        var mapping = LogTable.Read("run,did it?\n1,Y\n2,n").Suggest();
        Assert.Equal(LogField.Passed, mapping.Columns.Single(c => c.Column == "did it?").Field);
        Assert.Equal(["Y"], mapping.Passes);
        Assert.Equal(["n"], mapping.Fails);
    }

    [Fact]
    public void Too_many_rows_and_columns_are_refused_and_headings_are_told_apart()
    {
        Assert.Throws<InputProblem>(() => LogTable.Read("passed\n" + string.Join('\n', Enumerable.Repeat("yes", LogTable.MostRows + 1))));
        Assert.Throws<InputProblem>(() => LogTable.Read(string.Join(',', Enumerable.Repeat("a", 61)) + "\n1"));
        Assert.Equal(["a", "a (2)", "column 3"], LogTable.Read("a,a,\n1,2,3").Columns);
    }

    [Fact]
    public void Runs_under_the_same_conditions_are_one_series()
    {
        var read = Read("passed,light,series\nyes,dim,morning\nno,dim,morning\nyes,bright,morning\nyes,,");
        var keys = read.Entries.Select(LogTable.SeriesKey).ToArray();
        Assert.Equal(keys[0], keys[1]);
        Assert.NotEqual(keys[0], keys[2]);
        Assert.Equal("", keys[3]);
        Assert.All(keys[..3], k => Assert.True(LogTable.IsKey(k)));
    }
}
