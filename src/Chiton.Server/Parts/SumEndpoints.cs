using Chiton.Core.Proving;
using Chiton.Core.Quantities;
using Chiton.Core.Sensing;

namespace Chiton.Server.Parts;

/// <summary>Every calculation as one call.</summary>
public static class SumEndpoints
{
    /// <summary>Maps the calls.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var sums = api.MapGroup("/sums").WithTags("Sums");
        sums.MapPost("/threshold", Answer<ThresholdResult> (ThresholdInput input) => ThresholdSum.Compute(input)).WithName("sumThreshold").ProducesValidationProblem();
        sums.MapPost("/marker-pass", Answer<MarkerPassResult> (MarkerPassInput input) => MarkerPass.Compute(input)).WithName("sumMarkerPass").ProducesValidationProblem();
        sums.MapPost("/success-rate", Answer<SuccessRateResult> (SuccessRateInput input) => SuccessRate.Compute(input)).WithName("sumSuccessRate").ProducesValidationProblem();
        sums.MapPost("/{name}", (string name) => Results.Problem(title: $"There is no sum “{name}”.", statusCode: 404)).ExcludeFromDescription();
    }
}
