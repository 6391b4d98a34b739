/** Rarer schemes, in the form of the table of names: letters first, slips of the pen, words of other tongues. */
export const RARE_NAMES = `
D_Gangway.png = baseColor
N_Gangway.png = normal
R_Gangway.png = roughness
M_Gangway.png = metalness
AO_Gangway.png = occlusion

d_winch_base.png = baseColor
n_winch_base.png = normal
r_winch_base.png = roughness

tx_davit_co.png = baseColor
tx_davit_no.png = normal
tx_davit_ro.png = roughness
tx_davit_me.png = metalness

cleat_dif.png = baseColor
cleat_nm.png = normal
cleat_mt.png = metalness

Winch_basecolr.png = baseColor
Winch_metalness.png = metalness
Winch_ambiant_occlusion.png = occlusion
Winch_displacemnt.png = height

oar_base_color.png = baseColor
oar_base_metalness.png = metalness
oar_specular_roughness.png = roughness
oar_geometry_normal.png = normal
oar_base_diffuse_roughness.png = -

pijler_kleur.png = baseColor
pijler_normaal.png = normal
pijler_ruwheid.png = roughness
pijler_metaal.png = metalness

kaj_färg.png = baseColor
kaj_grovhet.png = roughness

skrzynia_kolor.png = baseColor
skrzynia_szorstkość.png = roughness
skrzynia_wysokość.png = height

木箱_颜色.png = baseColor
木箱_法线.png = normal
木箱_粗糙度.png = roughness

бочка_цвет.png = baseColor
бочка_шероховатость.png = roughness

crate_color_g22.png = baseColor
crate_normal_g10.png = normal

fender_LOD0_Albedo.png = baseColor
fender_LOD0_Normal.png = normal
`;
