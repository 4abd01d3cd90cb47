namespace Chiton.Core.Tests.Sensing;

public class ReadingTextTests
{
    private static readonly string[] Zones = ["sleepers", "bed tag"];

    private static IReadOnlyList<ZoneReadings> Parse(string text) => ReadingText.Parse(text, "bed tag", Zones, 0, 100);

    [Theory]
    [InlineData("12\n13\n14")]
    [InlineData("reading\n12\n13\n14\n")]
    [InlineData("12 %\r\n13 %\r\n\r\n14 %\r\n")]
    [InlineData("12\t13\t14")]
    [InlineData("12;13;14")]
    [InlineData("12,13,14")]
    [InlineData("time,reading\n0.1,12\n0.2,13\n0.3,14")]
    [InlineData("zone,reading\nbed tag,12\nbed tag,13\nBed Tag,14")]
    public void A_column_however_people_have_it(string text)
    {
        var zone = Assert.Single(Parse(text));
        Assert.Equal("bed tag", zone.Zone);
        Assert.Equal([12, 13, 14], zone.Readings);
    }

    [Fact]
    public void Decimal_commas_are_understood() => Assert.Equal([12.5, 13.25], Assert.Single(Parse("12,5\n13,25")).Readings);

    [Fact]
    public void Two_zones_in_one_table()
    {
        var both = Parse("zone;reading\nsleepers;21\nbed tag;55\nsleepers;22");
        Assert.Equal([21, 22], both.Single(z => z.Zone == "sleepers").Readings);
        Assert.Equal([55], both.Single(z => z.Zone == "bed tag").Readings);
    }

    [Fact]
    public void A_word_among_numbers_is_named_with_its_line()
    {
        var p = Assert.Throws<InputProblem>(() => Parse("12\n13\noyster\n14"));
        Assert.Equal("Line 3: “oyster” is not a number.", p.Errors["text.line3"]);
    }

    [Fact]
    public void Not_a_number_and_out_of_range_are_named()
    {
        var p = Assert.Throws<InputProblem>(() => Parse("12\nNaN\n101\n-1"));
        Assert.Equal(["text.line2", "text.line3", "text.line4"], p.Errors.Keys.Order());
    }

    [Fact]
    public void An_unknown_zone_is_named() =>
        Assert.Contains("no zone “weed”", Assert.Throws<InputProblem>(() => Parse("zone,reading\nweed,12")).Message);

    [Theory]
    [InlineData("")]
    [InlineData("\n\n")]
    [InlineData("reading\n")]
    public void Nothing_is_said_to_be_nothing(string text) => Assert.Throws<InputProblem>(() => Parse(text));

    [Fact]
    public void Many_faults_are_cut_short()
    {
        var p = Assert.Throws<InputProblem>(() => Parse(string.Join('\n', Enumerable.Repeat("mud", 50))));
        Assert.Equal(6, p.Errors.Count);
        Assert.Contains("more lines", p.Errors["text"]);
    }

    [Fact]
    public void What_is_printed_is_read_back() =>
        Gen.Double[0, 100]
            .Select(x => Math.Round(x, 2))
            .Array[1, 60]
            .Sample(readings =>
                Assert.Equal(
                    readings,
                    Assert
                        .Single(
                            Parse(string.Join('\n', readings.Select(r => r.ToString(System.Globalization.CultureInfo.InvariantCulture))))
                        )
                        .Readings
                )
            );

    private static readonly Sensor Range = new("Range", SensorKind.Distance, 50, 1, ["near", "far"]) { SilentReading = 0 };

    private static IReadOnlyList<double> Mm(string text) =>
        Assert.Single(ReadingText.Parse(text, "near", ["near", "far"], 0, 4000, "mm")).Readings;

    [Fact]
    public void A_unit_that_is_said_is_turned_into_the_sensors()
    {
        Assert.Equal([810, 805, 800, 508], Mm("81 cm\n805 mm\n0,8 m\n20 in"));
        Assert.Contains("another unit", Assert.Throws<InputProblem>(() => Mm("81 s")).Errors["text.line1"]);
        // What stands behind a number and is no unit does no harm.
        Assert.Equal([81], Mm("81 counts"));
    }

    private static string? Asked(string text, Sensor? sensor = null, params double[] known)
    {
        sensor ??= Range;
        var readings = ReadingText.Parse(
            text,
            sensor.Zones[0],
            sensor.Zones.ToArray(),
            sensor.Facts.From,
            sensor.Facts.To,
            sensor.Facts.Unit
        );
        return ReadingQuestions.Ask(
            sensor,
            text,
            readings,
            known.Length == 0 ? null : SenseWords.Unread(sensor) with { Zones = [new(sensor.Zones[0], known)] }
        );
    }

    [Fact]
    public void What_looks_like_another_unit_is_asked_about()
    {
        Assert.Contains("is that 81 cm, 810 mm", Asked("81", null, 800, 805, 812));
        Assert.Contains("is that 81 cm", Asked("802\n811\n81\n805"));
        Assert.Null(Asked("802\n811\n790\n805"));
        // Silence is no small reading.
        Assert.Null(Asked("802\n811\n0\n805"));
        var banded = Range with { Bands = [new("near", 300, 900), new("far", 900, 2000)] };
        Assert.Contains("are they in cm", Asked("42\n45\n51", banded));
        Assert.Null(Asked("420\n450\n510", banded));
        var eye = new Sensor("Eye", SensorKind.ReflectedLight, 10, 1, ["dark", "pale"]);
        Assert.Contains("is that 42 %", Asked("0.42\n0.4", eye));
        Assert.Null(Asked("0\n42\n1", eye));
        Assert.Contains("42.37 is finer than Eye can tell, which is 1 %", Asked("42\n42.37", eye));
        Assert.Null(Asked("42.37", eye with { Resolution = 0.01 }));
    }

    [Fact]
    public void Two_columns_of_comma_decimals_are_not_silently_one_number()
    {
        var eye = new Sensor("Eye", SensorKind.ReflectedLight, 10, 0.1, ["dark", "pale"]);
        Assert.Contains("4 numbers, or 2 with decimal commas", Asked("12,5,13,2\n12,7,13,1", eye));
        Assert.Contains("one number with a decimal comma, or two readings", Asked("21,22\n23,21\n22,24", eye with { Resolution = 0.01 }));
        Assert.Null(Asked("21,5\n23,1\n22,4", eye));
        Assert.Null(Asked("12,5;13,2\n12,7;13,1", eye));
        Assert.Null(Asked("12, 13, 14\n15, 16, 17", eye));
    }

    [Fact]
    public void Named_colours_are_words()
    {
        var read = ReadingText.Parse("red\nRed\n6\nwhite", "marker", ["marker"], 0, 9, "", 1, SenseJudge.ColourWords);
        Assert.Equal([6, 6, 6, 8], Assert.Single(read).Readings);
        Assert.Contains(
            "“pink” is none of nothing, black",
            Assert
                .Throws<InputProblem>(() => ReadingText.Parse("pink\nred", "marker", ["marker"], 0, 9, "", 1, SenseJudge.ColourWords))
                .Errors.Values.First()
        );
        // A column of zones beside one of words.
        Assert.Equal(
            ["floor", "marker"],
            ReadingText
                .Parse("marker;red\nfloor;black", "marker", ["marker", "floor"], 0, 9, "", 1, SenseJudge.ColourWords)
                .Select(z => z.Zone)
                .Order()
        );
    }
}
