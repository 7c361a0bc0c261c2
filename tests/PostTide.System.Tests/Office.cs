using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text.Json;
using System.Text.Json.Nodes;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;
using Npgsql;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>
/// A whole office: a database of its own on a real PostgreSQL, the server and the stand-ins as processes, and a person
/// signed in. Nothing is replaced or shortened.
/// </summary>
public sealed class Office : IAsyncDisposable, IAsyncLifetime
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(120);
    private readonly string _folder = Directory.CreateTempSubdirectory("posttide-test-").FullName;
    private readonly int _web = FreePort();
    private readonly int _stand = FreePort();
    private readonly int _host = FreePort();
    private readonly string _database = $"test_{Guid.NewGuid():N}";
    private Process? _server;
    private Process? _standIns;

    public int SmtpPort { get; } = FreePort();

    /// <summary>The person signed in; may do everything.</summary>
    public HttpClient Http { get; private set; } = null!;

    public string Address => $"http://127.0.0.1:{_web}";

    public HttpClient StandIns { get; private set; } = null!;

    /// <summary>The root of the repository.</summary>
    public static string Root { get; } = FindRoot();

    private static string Server => Environment.GetEnvironmentVariable("POSTTIDE_TEST_POSTGRES")
        ?? throw new InvalidOperationException("POSTTIDE_TEST_POSTGRES names no PostgreSQL. ./posttide test starts one and sets it.");

    public string Connection => $"{Server};Database={_database}";

    public async ValueTask InitializeAsync()
    {
        await RunSqlAsync($"{Server};Database=postgres", $"CREATE DATABASE {_database}");
        using (var load = Start("Cli", "demo load --messages 0"))
        {
            await load.WaitForExitAsync();
            if (load.ExitCode != 0)
            {
                throw new InvalidOperationException("The office could not be set up.");
            }
        }

        _standIns = Start("StandIns");
        StandIns = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{_stand}") };
        await StartServerAsync();
        Http = await SignInAsync("nell@saltmarrow.example");
        await EventuallyAsync(async () => (await StandIns.GetAsync("/mail")).IsSuccessStatusCode);
    }

    public async ValueTask DisposeAsync()
    {
        await KillServerAsync();
        _standIns?.Kill();
        Http?.Dispose();
        StandIns?.Dispose();
        NpgsqlConnection.ClearAllPools();
        await RunSqlAsync($"{Server};Database=postgres", $"DROP DATABASE IF EXISTS {_database} WITH (FORCE)");
        Directory.Delete(_folder, recursive: true);
    }

    /// <summary>Starts the server, and waits until it answers and takes mail.</summary>
    public async Task StartServerAsync()
    {
        _server = Start("Server");
        using var http = new HttpClient { BaseAddress = new Uri(Address) };
        await EventuallyAsync(async () => (await http.GetAsync("/api/me")).IsSuccessStatusCode);
        await EventuallyAsync(async () =>
        {
            using var client = new TcpClient();
            await client.ConnectAsync(IPAddress.Loopback, SmtpPort);
            return true;
        });
    }

    /// <summary>Kills the server with SIGKILL: it gets no chance to finish anything.</summary>
    public async Task KillServerAsync()
    {
        if (_server is { HasExited: false })
        {
            _server.Kill();
            await _server.WaitForExitAsync();
        }
    }

    public async Task<HttpClient> SignInAsync(string email, string password = "saltmarrow-demo")
    {
        var http = new HttpClient(new HttpClientHandler { CookieContainer = new CookieContainer() }) { BaseAddress = new Uri(Address) };
        await RenewTokenAsync(http);
        (await http.PostAsJsonAsync("/api/sign-in", new { email, password })).EnsureSuccessStatusCode();
        await RenewTokenAsync(http);
        return http;
    }

    public static async Task RenewTokenAsync(HttpClient http)
    {
        var me = await http.GetFromJsonAsync<JsonNode>("/api/me");
        http.DefaultRequestHeaders.Remove("X-Request-Token");
        http.DefaultRequestHeaders.Add("X-Request-Token", me!["requestToken"]!.GetValue<string>());
    }

    public async Task<JsonNode> GetAsync(string path) => (await Http.GetFromJsonAsync<JsonNode>(path))!;

    public async Task<JsonNode?> PostAsync(string path, object? body = null)
    {
        using var answer = await Http.PostAsJsonAsync(path, body ?? new { });
        var text = await answer.Content.ReadAsStringAsync();
        if (!answer.IsSuccessStatusCode)
        {
            throw new HttpRequestException($"{path} answered {(int)answer.StatusCode}: {text}", null, answer.StatusCode);
        }

        return text.Length == 0 ? null : JsonNode.Parse(text);
    }

    /// <summary>Hands a message to Post Tide over SMTP.</summary>
    public async Task SendAsync(MimeMessage message, string to = "berths@saltmarrow.example")
    {
        using var client = new SmtpClient();
        await client.ConnectAsync("127.0.0.1", SmtpPort, SecureSocketOptions.None);
        await client.SendAsync(message, MailboxAddress.Parse(message.From.Mailboxes.First().Address), [MailboxAddress.Parse(to)]);
        await client.DisconnectAsync(quit: true);
    }

    /// <summary>A message from somebody who has not written before, unless it is said from whom.</summary>
    public static MimeMessage Mail(string subject, string text, string? from = null, string to = "berths@saltmarrow.example")
    {
        var message = new MimeMessage();
        message.From.Add(MailboxAddress.Parse(from ?? $"Ada Tester <ada-{Guid.NewGuid():N}@tester.example>"));
        message.To.Add(MailboxAddress.Parse(to));
        message.Subject = subject;
        message.Body = new TextPart("plain") { Text = text };
        return message;
    }

    /// <summary>Waits until a message with this subject is planned, and gives everything about it.</summary>
    public async Task<JsonNode> PlannedAsync(string subject)
    {
        JsonNode? found = null;
        await EventuallyAsync(async () =>
        {
            var page = await GetAsync($"/api/messages?text={Uri.EscapeDataString($"\"{subject}\"")}");
            found = page["messages"]!.AsArray().FirstOrDefault(m => m!["subject"]!.GetValue<string>() == subject && m["state"]!.GetValue<string>() != "Arrived");
            return found is not null;
        });
        return await GetAsync($"/api/messages/{found!["id"]}");
    }

    /// <summary>A count straight from the records.</summary>
    public async Task<long> CountAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(Connection);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        return Convert.ToInt64(await command.ExecuteScalarAsync(), global::System.Globalization.CultureInfo.InvariantCulture);
    }

    /// <summary>Waits, patiently, until something is so. The machine may be starved; only the patience is bounded.</summary>
    public static async Task EventuallyAsync(Func<Task<bool>> so)
    {
        var end = DateTime.UtcNow + Patience;
        while (true)
        {
            try
            {
                if (await so())
                {
                    return;
                }
            }
            catch (Exception e) when (e is HttpRequestException or SocketException or JsonException && DateTime.UtcNow < end)
            {
                // Not yet.
            }

            if (DateTime.UtcNow > end)
            {
                throw new TimeoutException("What was waited for did not happen.");
            }

            await Task.Delay(100);
        }
    }

    private static async Task RunSqlAsync(string connectionString, string sql)
    {
        await using var connection = new NpgsqlConnection(connectionString);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    private Process Start(string project, string arguments = "")
    {
        var configuration = AppContext.BaseDirectory.Contains("/Release/", StringComparison.Ordinal) ? "Release" : "Debug";
        var program = Path.Combine(Root, "src", $"PostTide.{project}", "bin", configuration, "net10.0", $"PostTide.{project}.dll");
        var start = new ProcessStartInfo("dotnet", $"\"{program}\" {arguments}") { WorkingDirectory = _folder, RedirectStandardOutput = true };
        var environment = new Dictionary<string, string>
        {
            ["PostTide__Database"] = Connection,
            ["PostTide__DataFolder"] = Path.Combine(_folder, "data"),
            ["PostTide__OfficeName"] = "Saltmarrow Harbour Office",
            ["PostTide__TicketPrefix"] = "SH",
            ["PostTide__SmtpPort"] = SmtpPort.ToString(global::System.Globalization.CultureInfo.InvariantCulture),
            ["PostTide__MailHostPort"] = _host.ToString(global::System.Globalization.CultureInfo.InvariantCulture),
            ["PostTide__PracticeAddress"] = $"http://127.0.0.1:{_stand}",
            ["StandIns__SmtpPort"] = _host.ToString(global::System.Globalization.CultureInfo.InvariantCulture),
            ["StandIns__TrickleSeconds"] = "0",
            ["ASPNETCORE_URLS"] = project == "StandIns" ? $"http://127.0.0.1:{_stand}" : Address,
        };
        for (var i = 0; i < 5; i++)
        {
            environment[$"PostTide__RetrySeconds__{i}"] = "0.2";
        }

        foreach (var (name, value) in environment)
        {
            start.Environment[name] = value;
        }

        var process = Process.Start(start) ?? throw new InvalidOperationException($"{project} did not start.");
        process.OutputDataReceived += (_, _) => { };
        process.BeginOutputReadLine();
        return process;
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    private static string FindRoot()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (folder is not null && !File.Exists(Path.Combine(folder.FullName, "PostTide.slnx")))
        {
            folder = folder.Parent;
        }

        return folder?.FullName ?? throw new InvalidOperationException("The repository cannot be found from here.");
    }
}

/// <summary>Tests that share one office.</summary>
[CollectionDefinition(nameof(SharedOffice))]
public sealed class SharedOffice : ICollectionFixture<Office>;
