namespace Chiton.Core.Tests;

/// <summary>Numbers in sentences.</summary>
public class FiguresTests
{
    [Theory]
    [InlineData(175758, 2, "180000")]
    [InlineData(2031, 2, "2000")]
    [InlineData(96, 2, "96")]
    [InlineData(0.04567, 2, "0.046")]
    [InlineData(-1234, 3, "-1230")]
    [InlineData(9.96, 2, "10")]
    [InlineData(999, 2, "1000")]
    [InlineData(0, 2, "0")]
    public void About_rounds_before_the_point_as_after_it(double value, int digits, string said) =>
        Assert.Equal(said, Figures.About(value, digits));
}
