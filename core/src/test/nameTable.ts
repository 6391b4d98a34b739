/**
 * File names as they come from many naming schemes, and what each is; groups lie in one folder, so that
 * siblings speak for each other. `normal+` and `normal-` tell the direction, `~` an inversion, `-` that no
 * channel reads the image, `r:... g:...` a packed one.
 */
export const NAME_TABLE = `
Lantern_Brass_BaseColor.png = baseColor
Lantern_Brass_Metallic.png = metalness
Lantern_Brass_Roughness.png = roughness
Lantern_Brass_Normal.png = normal
Lantern_Brass_Height.png = height
Lantern_Brass_AmbientOcclusion.png = occlusion
Lantern_Brass_Emissive.png = emission
Lantern_Brass_Opacity.png = opacity

DefaultMaterial_Base_Color.tga = baseColor
DefaultMaterial_Metallic.tga = metalness
DefaultMaterial_Roughness.tga = roughness
DefaultMaterial_Normal_OpenGL.tga = normal+
DefaultMaterial_Normal_DirectX.tga = normal-
DefaultMaterial_Mixed_AO.tga = occlusion
DefaultMaterial_Glossiness.tga = glossiness
DefaultMaterial_Specular.tga = specularColor
DefaultMaterial_Diffuse.tga = baseColor
DefaultMaterial_Specular_Level.tga = specular

T_QuayWall_BC.png = baseColor
T_QuayWall_N.png = normal
T_QuayWall_ORM.png = r:occlusion g:roughness b:metalness
T_QuayWall_E.png = emission

T_Bollard_D.tga = baseColor
T_Bollard_N.tga = normal
T_Bollard_S.tga = specularColor
T_Bollard_R.tga = roughness

hull_c.png = baseColor
hull_n.png = normal
hull_r.png = roughness
hull_m.png = metalness
hull_d.png = height
hull_o.png = opacity?occlusion

crate_b.png = baseColor
crate_n.png = normal
crate_r.png = roughness
crate_m.png = metalness

coat_albedo_4k.jpg = baseColor
coat_normal_4k.jpg = normal
coat_roughness_4k.jpg = roughness
coat_ao_4k.jpg = occlusion
coat_displacement_4k.jpg = height
coat_gloss_4k.jpg = glossiness

PavingStones036_2K_Color.jpg = baseColor
PavingStones036_2K_NormalGL.jpg = normal+
PavingStones036_2K_NormalDX.jpg = normal-
PavingStones036_2K_Roughness.jpg = roughness
PavingStones036_2K_AmbientOcclusion.jpg = occlusion
PavingStones036_2K_Displacement.jpg = height

rusty_metal_02_diff_2k.jpg = baseColor
rusty_metal_02_nor_gl_2k.exr = normal+
rusty_metal_02_nor_dx_2k.exr = normal-
rusty_metal_02_rough_2k.exr = roughness
rusty_metal_02_metal_2k.exr = metalness
rusty_metal_02_disp_2k.png = height
rusty_metal_02_arm_2k.jpg = r:occlusion g:roughness b:metalness
rusty_metal_02_ao_2k.jpg = occlusion
rusty_metal_02_spec_2k.jpg = specularColor

tarp_col.tif = baseColor
tarp_nrm.tif = normal
tarp_rgh.tif = roughness
tarp_met.tif = metalness
tarp_dsp.tif = height
tarp_occ.tif = occlusion

net_DIF.tga = baseColor
net_NRM.tga = normal
net_GLS.tga = glossiness
net_SPC.tga = specularColor
net_OPC.tga = opacity
net_HGT.tga = height

Rope.BaseColor.1001.exr = baseColor
Rope.BaseColor.1002.exr = baseColor
Rope.Roughness.1001.exr = roughness
Rope.Normal.1001.exr = normal
Rope.Displacement.1001.exr = height
Rope.Metalness.1002.exr = metalness

deck_basecolor_u1_v1.png = baseColor
deck_basecolor_u2_v1.png = baseColor
deck_specularity_u1_v1.png = specular

boatBaseColor.png = baseColor
boatNormal.png = normal
boatRoughness.png = roughness
boatMetalness.png = metalness
boatOcclusion.png = occlusion

fender-albedo.png = baseColor
fender-normal-ogl.png = normal+
fender-roughness.png = roughness
fender-metallic.png = metalness
fender-ao.png = occlusion
fender-height.png = height

gull basecolor.png = baseColor
gull normal.png = normal
gull roughness.png = roughness
gull ambient occlusion.png = occlusion

anchor_diffuse.jpg = baseColor
anchor_specular.jpg = specularColor
anchor_glossiness.jpg = glossiness
anchor_bump.jpg = bump
anchor_normals.jpg = normal

Sail_Alb.png = baseColor
Sail_Nrm.png = normal
Sail_MRA.png = r:metalness g:roughness b:occlusion

Mast_Albedo.png = baseColor
Mast_Normal.png = normal
Mast_RMA.png = r:roughness g:metalness b:occlusion

Winch_col.png = baseColor
Winch_nml.png = normal
Winch_MRO.png = r:metalness g:roughness b:occlusion
Winch_emi.png = emission

Cleat_albedoTransparency.png = rgb:baseColor a:opacity
Cleat_MetallicSmoothness.png = r:metalness a:glossiness
Cleat_Normal.png = normal
Cleat_Emission.png = emission

Crane_BaseColor.png = baseColor
Crane_OcclusionRoughnessMetallic.png = r:occlusion g:roughness b:metalness
Crane_Normal.png = normal
Crane_Emissive.png = emission

Barrel_baseColor.png = baseColor
Barrel_metallicRoughness.png = g:roughness b:metalness
Barrel_normal.png = normal
Barrel_occlusion.png = occlusion
Barrel_emissive.png = emission

Trunk_diffuse.png = baseColor
Trunk_specularGlossiness.png = rgb:specularColor a:glossiness
Trunk_normal.png = normal

lamp_emit.png = emission
lamp_glow.png = emission
lamp_selfillum.png = emission
lamp_basecolor.png = baseColor

flag_colour.png = baseColor
flag_alpha.png = opacity
flag_normal.png = normal

leaf_color.png = baseColor
leaf_transparency.png = ~opacity
leaf_translucency.png = transmission
leaf_normal.png = normal
leaf_cutout.png = opacity

glass_refraction.png = transmission
glass_basecolor.png = baseColor
glass_transmission.png = transmission

skin_sss.png = subsurface
skin_subsurface.png = subsurface
skin_scattering.png = subsurface
skin_diffuse.png = baseColor

velvet_sheen.png = sheenColor
velvet_fuzz.png = sheenColor
velvet_basecolor.png = baseColor

boot_clearcoat.png = coat
boot_clearcoatRoughness.png = coatRoughness
boot_coat_roughness.png = coatRoughness
boot_basecolor.png = baseColor

rock_curvature.png = -
rock_thickness.png = -
rock_position.png = -
rock_world_space_normal.png = -
rock_normal_object.png = -
rock_ID.png = -
rock_basecolor.png = baseColor
rock_matid.png = -

hullroughness.png = roughness
hullbasecolor.png = baseColor
hullnormal.png = normal
hullmetallic.png = metalness
hulldisplacement.png = height

basecolor_hatch.png = baseColor
roughness_hatch.png = roughness
normal_hatch.png = normal
metallic_hatch.png = metalness

TEX_buoy_DIFF.png = baseColor
TEX_buoy_NORM.png = normal
TEX_buoy_ROUGH.png = roughness
TEX_buoy_DISP.png = height
TEX_buoy_AO.png = occlusion

M_Float_albedo_v003.png = baseColor
M_Float_albedo_v002.png = baseColor
M_Float_roughness_v003.png = roughness
M_Float_normal_v003.png = normal

hatch_basecolor copy.png = baseColor
hatch_normal (1).png = normal
hatch_roughness_final.png = roughness
hatch_metalness_lowres.png = metalness

Pier_Diffuse_Map.jpg = baseColor
Pier_Normal_Map.jpg = normal
Pier_Bump_Map.jpg = bump
Pier_Specular_Map.jpg = specularColor
Pier_Height_Map.jpg = height

ladder_NormalMap.png = normal
ladder_AOMap.png = occlusion
ladder_RoughnessMap.png = roughness
ladder_AlphaMap.png = opacity
ladder_ColorMap.png = baseColor

wood_planks_dirty_diffuse_1k.png = baseColor
wood_planks_dirty_rough_1k.png = roughness
wood_planks_dirty_nor_1k.png = normal

brushed_metal_color.png = baseColor
brushed_metal_roughness.png = roughness
brushed_metal_normal.png = normal
brushed_metal_metalness.png = metalness

rough_stone_albedo.png = baseColor
rough_stone_normal.png = normal
rough_stone_roughness.png = roughness

smooth_plaster_basecolor.png = baseColor
smooth_plaster_smoothness.png = glossiness

painted_metal_baseColor.tx.png = baseColor
painted_metal_metallic.png = metalness

pilot_boat_hull_bcol.exr = baseColor
pilot_boat_hull_nrml.exr = normal
pilot_boat_hull_mtl.exr = metalness
pilot_boat_hull_rgn.exr = roughness
pilot_boat_hull_displ.exr = height

KELP_COLOR.PNG = baseColor
KELP_NORMAL.PNG = normal
KELP_OPACITY.PNG = opacity
KELP_TRANSLUCENCY.PNG = transmission

quayLamp_Occlusion.png = occlusion
quayLamp_albedo.png = baseColor
quayLamp_Smoothness.png = glossiness

net01_diffuse.png = baseColor
net01_opacity.png = opacity
net02_diffuse.png = baseColor
net02_opacity.png = opacity

tile_07_Base_Color_2048.png = baseColor
tile_07_Roughness_2048.png = roughness
tile_07_Normal_2048.png = normal
tile_07_Height_2048.png = height

sign_BaseMap.png = baseColor
sign_NormalMap_DX.png = normal-
sign_Roughness.png = roughness

buoy_paint_normal_y_up.png = normal
buoy_paint_rough.png = roughness
buoy_paint_diffuse.png = baseColor

scuff_roughnes.png = roughness
scuff_metalic.png = metalness
scuff_basecolor.png = baseColor

chain_reflection.png = specularColor
chain_ior.png = ior
chain_diffuse.png = baseColor

cabin_specular_intensity.png = specular
cabin_specularColor.png = specularColor
cabin_basecolor.png = baseColor

float_AORM.png = r:occlusion g:roughness b:metalness
float_basecolor.png = baseColor
post_OMR.png = r:occlusion g:metalness b:roughness
post_basecolor.png = baseColor
post2_ORMH.png = r:occlusion g:roughness b:metalness a:height

ring_o_r_m.png = r:occlusion g:roughness b:metalness
ring_albedo.png = baseColor

rail-occlusion-roughness-metalness.png = r:occlusion g:roughness b:metalness
rail-basecolor.png = baseColor
rail_metalnessRoughness.png = g:roughness b:metalness

cover_NormalHeight.png = rgb:normal a:height
cover_diffuseAlpha.png = rgb:baseColor a:opacity

vane_height_16bit.png = height
vane_basecolor_srgb.png = baseColor
vane_roughness_linear.png = roughness
vane_normal_raw.png = normal

keel_basecolor_ACEScg.exr = baseColor
keel_roughness_raw.exr = roughness
keel_displacement_lin.exr = height

Scene_Root_Lamp_Glass_Opacity.png = opacity
Scene_Root_Lamp_Glass_BaseColor.png = baseColor
Scene_Root_Lamp_Brass_BaseColor.png = baseColor

dinghy.basecolor.png = baseColor
dinghy.normal.png = normal
dinghy.orm.png = r:occlusion g:roughness b:metalness

oar_depth.png = height
oar_color.png = baseColor
oar_parallax.png = height

hawser_bump_map.png = bump
hawser_bmp.tif = bump
hawser_color.tif = baseColor

buoyA_Normal_OGL.png = normal+
buoyA_Normal_GL.png = normal+
buoyA_NRM_DX.png = normal-
buoyA_BaseColor.png = baseColor
buoyA_Mtl.png = metalness

hook_e.png = emission
hook_a.png = baseColor?occlusion
hook_n.png = normal
hook_r.png = roughness

spar_h.png = height
spar_n.png = normal
spar_g.png = glossiness
spar_s.png = specularColor
spar_d.png = baseColor

pump_metallness.png = metalness
pump_glossy.png = glossiness
pump_albedo.png = baseColor
pump_illumination.png = emission

plank_diffusecolor.png = baseColor
plank_normalmap.png = normal
plank_heightmap.png = height
plank_glossmap.png = glossiness

thole_basecolor_<UDIM>.exr = baseColor
thole_roughness_<UDIM>.exr = roughness

sheet_Normal_Tangent.png = normal
sheet_Displace.png = height
sheet_Emissive_Color.png = emission
sheet_Diffuse_Color.png = baseColor

Gantry_low_Gantry_BaseColor.png = baseColor
Gantry_low_Gantry_Roughness.png = roughness
Gantry_low_Gantry_Metalness.png = metalness
Gantry_low_Gantry_Normal.png = normal

MI_Harbour_Stone_A.png = baseColor?occlusion
MI_Harbour_Stone_N.png = normal
MI_Harbour_Stone_R.png = roughness
MI_Harbour_Stone_H.png = height

salt.png = -
salt_albedo.png = baseColor
salt_gloss.png = glossiness

untitled.png = -
IMG_0231.jpg = -
scan_2024_05_11.jpg = -

weld_nor.png = normal
weld_alb.png = baseColor
weld_rou.png = roughness
weld_ao.png = occlusion

Tackle_SpecColor.png = specularColor
Tackle_Gloss.png = glossiness
Tackle_DiffuseMap.png = baseColor

strop_u1_v1_basecolor.exr = baseColor
strop_u2_v1_basecolor.exr = baseColor
strop_1001_roughness.exr = roughness

Grating-Color-Map.png = baseColor
Grating-Opacity-Map.png = opacity
Grating-Emission-Map.png = emission

bilge_emission_color.png = emission
bilge_normal_camera.png = bump

Kran_Farbe.png = baseColor
Kran_Rauheit.png = roughness
Kran_Metall.png = metalness
Kran_Normale.png = normal

phare_couleur.png = baseColor
phare_rugosité.png = roughness
phare_métallique.png = metalness
phare_hauteur.png = height

barca_colore.png = baseColor
barca_ruvidità.png = roughness
barca_opacità.png = opacity

A_Base.png = baseColor
A_Rough.png = roughness
A_Norm.png = normal

lamp_base_n.png = normal
lamp_base_rough.png = roughness
lamp_top_n.png = normal
lamp_top_rough.png = roughness

Dock_A_albedo.png = baseColor
Dock_A_ao_r_m.png = r:occlusion g:roughness b:metalness

Planks_height16.png = height
Planks_Displacement_32.png = height

Shed_Albedo.png = baseColor
Shed_NormalMap_OGL.png = normal+
Shed_PackedMask_AO_R_M.png = r:occlusion g:roughness b:metalness

Sail_Col.png = baseColor
Sail_Op.png = opacity
`;
