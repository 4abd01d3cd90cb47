using System.Security;
using Chiton.Core.Programs.Scxml;
using Chiton.Core.Quantities;

namespace Chiton.Core.Tests.Programs.Scxml;

/// <summary>Plain expressions of foreign documents; each is true, worked out by hand.</summary>
public class PlainExpressionTests
{
    [Theory]
    [InlineData("Math.pow(2, 10) === 1024")]
    [InlineData("2 ** 10 == 1024")]
    [InlineData("2 ** 3 ** 2 == 512")]
    [InlineData("2 ** -1 == 0.5")]
    [InlineData("3 * 2 ** 2 == 12")]
    [InlineData("Math.sqrt(81) == 9 && Math.trunc(-1.7) == -1 && Math.sign(-3) == -1")]
    [InlineData("Math.floor(Math.PI * 100) == 314")]
    [InlineData("Math.round(2.5) == 3 && Math.round(-2.5) == -2")]
    [InlineData("Math.max(1, 7, 3) - Math.min(4, 2) == 5")]
    [InlineData("Math.hypot(3, 4) == 5")]
    [InlineData("parseInt('42 mm') == 42 && parseInt('ff', 16) == 255 && parseInt('0x1f', 16) == 31 && parseInt('-7') == -7")]
    [InlineData("isNaN(parseInt('none')) && !isNaN('3')")]
    [InlineData("parseFloat('3.5e1rest') == 35")]
    [InlineData("Number('12') + 1 == 13 && String(12) + 1 == '121'")]
    [InlineData("[1, 2, 3].includes(2) && ![1, 2].includes('2')")]
    [InlineData("[1, 2, 3].slice(1).length == 2 && [1, 2, 3].slice(-1)[0] == 3")]
    [InlineData("[1, 2].join('-') == '1-2'")]
    [InlineData("'abcdef'.slice(1, 3) == 'bc' && 'abc'.slice(-2) == 'bc' && 'abc'.charAt(1) == 'b'")]
    [InlineData("'abc'.startsWith('ab') && 'abc'.endsWith('bc') && 'ABC'.toLowerCase() == 'abc'")]
    [InlineData("isFinite(1) && !isFinite(Infinity) && isNaN(NaN)")]
    public void Holds(string expression)
    {
        var walk = ScxmlWalk.Run(
            $"""
            <scxml xmlns="http://www.w3.org/2005/07/scxml" version="1.0" datamodel="ecmascript" initial="a">
              <state id="a"><transition cond="{SecurityElement.Escape(expression)}" target="yes"/><transition target="no"/></state>
              <state id="yes"/><state id="no"/>
            </scxml>
            """,
            []
        );
        Assert.Equal(["yes"], walk.Initial);
    }

    [Theory]
    [InlineData("Math.random()", "Math.random")]
    [InlineData("eval('1')", "In, min, max")]
    public void What_is_not_known_is_said(string expression, string says)
    {
        var refused = Assert.Throws<InputProblem>(() =>
            ScxmlWalk.Run(
                $"<scxml xmlns='http://www.w3.org/2005/07/scxml' version='1.0' "
                    + $"datamodel='ecmascript'><datamodel><data id='x' expr=\"{expression}\"/></datamodel><state "
                    + $"id='a'/></scxml>",
                []
            )
        );
        Assert.Contains(says, refused.Message);
    }
}
