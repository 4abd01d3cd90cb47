using Chiton.Core.Programs.Outside;

namespace Chiton.Core.Tests.Programs.Outside;

/// <summary>Names as the code of a board may have them.</summary>
public class BoardNamesTests
{
    [Theory]
    [InlineData("Tag eye", "Tag_eye")]
    [InlineData("Über-Greifer  2", "Uber_Greifer_2")]
    [InlineData("2nd eye", "n_2nd_eye")]
    [InlineData("—", "n")]
    [InlineData("class", "class_")]
    [InlineData("None", "None_")]
    [InlineData("_x_", "x")]
    [InlineData("lamp of Eye", "lamp_of_Eye")]
    public void A_name_is_made_legal(string name, string legal) => Assert.Equal(legal, new BoardNames().Of(name));

    [Fact]
    public void Two_that_would_be_the_same_are_told_apart_whatever_their_case()
    {
        var names = new BoardNames();
        Assert.Equal(["Eye", "eye_2", "Eye_3", "Eye_2_2"], new[] { "Eye", "eye", "Eye!", "Eye 2" }.Select(names.Of));
    }

    [Fact]
    public void A_long_name_ends_somewhere_and_none_is_said_twice()
    {
        var names = new BoardNames();
        var draw = new Random(4);
        var made = Enumerable
            .Range(0, 2000)
            .Select(_ => names.Of(string.Concat(Enumerable.Range(0, draw.Next(60)).Select(_ => (char)draw.Next(32, 0x300)))))
            .ToArray();
        Assert.Equal(made.Length, made.Select(m => m.ToLowerInvariant()).Distinct().Count());
        Assert.All(made, m => Assert.Matches("^[A-Za-z][A-Za-z0-9_]{0,50}$", m));
    }
}
