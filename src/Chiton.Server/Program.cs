using Chiton.Data;
using Chiton.Server.App;
using Chiton.Server.App.Lines;
using Chiton.Server.App.Room;
using Chiton.Server.Parts;
using Microsoft.AspNetCore.SignalR;
using Microsoft.EntityFrameworkCore;

// The database is read and written on the threads of requests: enough of them are there before the first crowd, not a second later.
ThreadPool.SetMinThreads(32, 32);

var builder = WebApplication.CreateBuilder(
    new WebApplicationOptions
    {
        Args = args,
        // The front end is found beside the program, wherever it was started from.
        ContentRootPath = AppContext.BaseDirectory,
        WebRootPath = Environment.GetEnvironmentVariable("CHITON_WEB") ?? "wwwroot",
    }
);

DataFolder? folder = null;
Listening listening;
try
{
    listening = new(Listening.Desk(builder.Configuration["urls"]));
    folder = DataFolder.Open(builder.Configuration["CHITON_DATA"] ?? "data");
    await DataSetup.Prepare(
        folder,
        TimeProvider.System,
        builder.Configuration["CHITON_DEMO"] is "1" or "true",
        Console.WriteLine,
        CancellationToken.None
    );
}
catch (Exception trouble) when (trouble is FolderTrouble or ChitonTrouble)
{
    folder?.Dispose();
    Console.Error.WriteLine($"Chiton cannot start. {trouble.Message}");
    return 1;
}
var file = folder.Database;

// Where it listens changes while it runs, and stands nowhere else: that it was started with another address is no news.
builder.Logging.AddFilter("Microsoft.AspNetCore.Server.Kestrel", LogLevel.Error);
var listened = new ConfigurationBuilder().Add(listening).Build();
builder.WebHost.ConfigureKestrel(o =>
{
    o.Configure(listened, reloadOnChange: true);
    o.Limits.MaxRequestBodySize = Limits.BodyBytes;
    o.AddServerHeader = false;
});

// What fails in the database is told by who asked for it, in words.
builder.Logging.AddFilter("Microsoft.EntityFrameworkCore", LogLevel.None);
builder.Logging.AddFilter("Microsoft.Hosting.Lifetime", LogLevel.Warning);
builder.Logging.AddFilter("Microsoft.AspNetCore", LogLevel.Warning);

// A body of the wrong shape is answered like any other bad input, naming the field.
builder.Services.Configure<RouteHandlerOptions>(o => o.ThrowOnBadRequest = true);
builder.Services.ConfigureHttpJsonOptions(o => JsonInput.Configure(o.SerializerOptions));
builder.Services.AddDbContextPool<ChitonDb>(o => o.UseSqlite(ChitonDb.Connection(file)));

// Made by the container, so that it lets go of the folder when the server ends.
builder.Services.AddSingleton(_ => folder);
builder.Services.AddSingleton(TimeProvider.System);
builder.Services.AddScoped<Sight>().AddScoped<Caller>();
builder
    .Services.AddScoped<RigStore>()
    .AddScoped<ClassStore>()
    .AddScoped<CourseStore>()
    .AddScoped<LessonStore>()
    .AddScoped<TrainingStore>()
    .AddScoped<ChallengeStore>()
    .AddScoped<HeatsStore>()
    .AddScoped<RoomStore>();
builder
    .Services.AddSingleton<Jobs>()
    .AddSingleton<Plays>()
    .AddSingleton<HeatChances>()
    .AddScoped<OwnJobs>()
    .AddScoped<Exercises>()
    .AddScoped<LessonNeeds>();
builder.Services.AddSingleton(listening).AddSingleton<Network>().AddSingleton<Presence>().AddSingleton<RoomTeller>();
builder.Services.AddSingleton<Owners>();
builder.Services.AddSingleton<RoomKeeper>();
builder.Services.AddHostedService(s => s.GetRequiredService<RoomKeeper>());
builder.Services.AddSingleton<Announcer>();
builder.Services.AddSingleton<RateKeeper>();
builder.Services.AddHostedService(s => s.GetRequiredService<RateKeeper>());
builder.Services.AddSingleton<SerialPorts>().AddSingleton<Lines>();
builder.Services.AddHostedService(s => s.GetRequiredService<Lines>());
builder.Services.AddSingleton<Trier>();
builder.Services.AddHostedService(s => s.GetRequiredService<Trier>());
builder
    .Services.AddSignalR(o =>
    {
        o.MaximumReceiveMessageSize = 16 * 1024;
        o.AddFilter(typeof(HubDoor));
    })
    .AddJsonProtocol(o => Documents.Configure(o.PayloadSerializerOptions));
builder.Services.AddOpenApi("v1", OpenApiShape.Configure);
builder.Services.AddProblemDetails();
builder.Services.AddExceptionHandler<Problems>();
builder.Services.AddHealthChecks().AddCheck<DatabaseHealth>("database");
builder.Services.AddResponseCompression(o =>
    o.MimeTypes = [.. Microsoft.AspNetCore.ResponseCompression.ResponseCompressionDefaults.MimeTypes, "application/problem+json"]
);
builder.Services.AddRateLimiter(o =>
{
    o.RejectionStatusCode = StatusCodes.Status429TooManyRequests;
    o.GlobalLimiter = SessionLimits.Limiter;
});

var app = builder.Build();
app.UseExceptionHandler();
app.UseStatusCodePages();
app.UseMiddleware<Guard>();
app.UseMiddleware<Door>();
app.UseRateLimiter();
app.UseMiddleware<JsonInput>();
app.UseMiddleware<QueryInput>();
app.UseResponseCompression();
app.UseStaticFiles(
    new StaticFileOptions
    {
        // Vite names assets by their content, so they never change under a name.
        OnPrepareResponse = c =>
            c.Context.Response.Headers.CacheControl = c.Context.Request.Path.StartsWithSegments("/assets")
                ? "public, max-age=31536000, immutable"
                : "no-cache",
    }
);
app.MapOpenApi("/openapi/{documentName}.json");
app.MapHealthChecks("/api/health", new() { ResponseWriter = DatabaseHealth.Write });
app.MapHub<BenchHub>("/hub");
var api = app.MapGroup("/api");
RigEndpoints.Map(api);
DesignEndpoints.Map(api);
PreflightEndpoints.Map(api);
LineEndpoints.Map(api);
SenseEndpoints.Map(api);
MoveEndpoints.Map(api);
ProgramEndpoints.Map(api);
ProgramListEndpoints.Map(api);
PatternEndpoints.Map(api);
WalkEndpoints.Map(api);
SceneEndpoints.Map(api);
SimulateEndpoints.Map(api);
CheckEndpoints.Map(api);
ProveEndpoints.Map(api);
TuneEndpoints.Map(api);
LogEndpoints.Map(api);
SumEndpoints.Map(api);
HelpEndpoints.Map(api);
ClassEndpoints.Map(api);
CourseEndpoints.Map(api);
LessonEndpoints.Map(api);
TrainingEndpoints.Map(api);
ChallengeEndpoints.Map(api);
HeatsEndpoints.Map(api);
RoomEndpoints.Map(api);
api.MapFallback(Problems.Nowhere).ExcludeFromDescription();
app.MapFallback(FrontPage.Serve).ExcludeFromDescription();

app.Services.GetRequiredService<DataFolder>();
app.Lifetime.ApplicationStarted.Register(() => Console.WriteLine($"Chiton is at {string.Join(" and ", app.Urls)}. Stop it with Ctrl+C."));
try
{
    await app.RunAsync();
}
catch (IOException e) when (e.InnerException is Microsoft.AspNetCore.Connections.AddressInUseException)
{
    Console.Error.WriteLine(
        $"Chiton cannot start: {e.Message} Another program, or another Chiton, listens there. Stop it, or start with --urls "
            + "http://127.0.0.1:5181."
    );
    return 1;
}
return 0;

/// <summary>The entry point, named so that tests can start it.</summary>
public partial class Program;
