using JasperFx;
using PostTide.Engine;
using PostTide.Server;
using PostTide.Server.Live;
using PostTide.Server.Places;
using PostTide.Server.SignIn;
using Serilog;

// Settings lie beside the program, wherever it is started from.
var builder = WebApplication.CreateBuilder(new WebApplicationOptions { Args = args, ContentRootPath = AppContext.BaseDirectory });
builder.Services.AddSerilog(log => log.ReadFrom.Configuration(builder.Configuration).WriteTo.Console(
    outputTemplate: "{Timestamp:HH:mm:ss} {Level:u3} {Message:lj}{NewLine}{Exception}", formatProvider: System.Globalization.CultureInfo.InvariantCulture));
builder.AddEngine();
builder.AddWeb();

var app = builder.Build();
app.UseExceptionHandler();
app.UseStatusCodePages();
app.UsePageSafety();
app.UseDefaultFiles();
app.UseStaticFiles();
app.UseRouting();
app.UseAuthentication();
app.UseAuthorization();
app.UseRequestTokens();

app.MapOpenApi();
app.MapSignIn();
var api = app.MapGroup("/api").RequireAuthorization();
api.MapToday();
api.MapQueues();
api.MapMail();
api.MapUploads();
api.MapTickets();
api.MapReplies();
api.MapDeeds();
api.MapFiles();
api.MapWorkflows();
api.MapRehearsals();
api.MapWorkflowHelp();
api.MapWorkflowFiles();
api.MapSorters();
api.MapSortByHand();
api.MapOutsideSorters();
api.MapSetup();
api.MapMailboxes();
api.MapCatchUps();
api.MapLog();
app.MapHub<LiveHub>("/live").RequireAuthorization();
app.MapFallbackToFile("index.html").AllowAnonymous();

// With arguments it is a tool of the messaging library, such as “codegen write”.
return args.Length == 0 ? await RunAsync(app) : await app.RunJasperFxCommands(args);

static async Task<int> RunAsync(WebApplication app)
{
    await app.RunAsync();
    return 0;
}

/// <summary>Named so that tests can start the application.</summary>
public partial class Program;
