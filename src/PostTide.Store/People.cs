using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.DependencyInjection;
using PostTide.Store.Records;

namespace PostTide.Store;

/// <summary>What people may do. One person often may do all four.</summary>
public static class Permissions
{
    /// <summary>Sets up workflows, keyword lists and templates.</summary>
    public const string Builder = "builder";

    /// <summary>Works on queues and tickets, and does deeds by hand.</summary>
    public const string Desk = "desk";

    /// <summary>Releases, changes or stops replies.</summary>
    public const string Checker = "checker";

    /// <summary>Looks after mailboxes, queues, destinations and stuck deeds.</summary>
    public const string Keeper = "keeper";

    public static readonly IReadOnlyList<string> All = [Builder, Desk, Checker, Keeper];
}

/// <summary>The store of people, the same for the server and the command line.</summary>
public static class PeopleStore
{
    private const int WrongPasswords = 5;
    private static readonly TimeSpan ClosedFor = TimeSpan.FromMinutes(5);

    public static IdentityBuilder AddPeopleStore(this IServiceCollection services) => services
        .AddIdentityCore<Person>(o =>
        {
            o.User.RequireUniqueEmail = true;
            o.Lockout.MaxFailedAccessAttempts = WrongPasswords;
            o.Lockout.DefaultLockoutTimeSpan = ClosedFor;

            // Length over character classes, as NIST SP 800-63B §5.1.1 advises.
            o.Password.RequiredLength = 10;
            o.Password.RequireDigit = false;
            o.Password.RequireLowercase = false;
            o.Password.RequireUppercase = false;
            o.Password.RequireNonAlphanumeric = false;
        })
        .AddRoles<IdentityRole<long>>()
        .AddEntityFrameworkStores<PostTideContext>();
}
