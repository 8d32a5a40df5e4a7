import { asc, eq } from 'drizzle-orm'
import type { Directory } from '#core/approvers/directory.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import type { Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { absence, person, team, teamMember } from '#server/db/schema.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'

/** Everybody with their posts, teams and absences. */
export async function directoryOf(db: Db): Promise<Directory> {
  const people = await db.select().from(person).orderBy(asc(person.name))
  const members = await db
    .select({ personId: teamMember.personId, team: team.name })
    .from(teamMember)
    .innerJoin(team, eq(team.id, teamMember.teamId))
  const teams = await db.select().from(team).orderBy(asc(team.name))
  const absences = await db.select().from(absence).orderBy(asc(absence.from))
  return {
    people: people.map(({ id, name, post, rights, leftAt }) => ({
      id,
      name,
      post,
      teams: members.filter(({ personId }) => personId === id).map((each) => each.team),
      approves: rights.includes('approve'),
      left: leftAt !== null,
      absences: absences
        .filter(({ personId }) => personId === id)
        .map(({ from, to, standInId }) => ({ from, to, standIn: standInId })),
    })),
    teams: teams.map(({ name, leadId }) => ({ name, lead: leadId })),
  }
}

/** The day it is now in the organisation's calendar, ISO 8601. */
export const today = async (ground: Ground): Promise<string> =>
  dayIn((await organisationOf(ground.db)).timeZone, ground.now())
